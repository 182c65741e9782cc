/** The routes on which a fault is suspected, darker where it is likelier. */
import type { Board, Traced } from "../api/queries";
import { OnTheMap } from "../parts/OnTheMap";
import { SuspectStrip } from "./SuspectStrip";

const MOST_STRIPS = 4;

const CONCERNED = 0.04; // of suspicion on a route, from which it is drawn

/** The routes that suspicion lies on, the most first. */
export function Strips({ board, traced }: { board: Board; traced: Traced }) {
  const suspicion = new Map(Object.entries(traced.of_metal));
  const segments = new Map(board.segments.map((each) => [each.id, each]));
  const drawn = new Set<string>();
  const routes = board.lines
    .map(({ circuit }) => ({ circuit, path: [...circuit.supply, ...circuit.return_path] }))
    .map((route) => ({ ...route, whole: sum(route.path, suspicion) }))
    .sort((one, other) => other.whole - one.whole)
    .filter(({ path }) => {
      const fresh = sum(
        path.filter((each) => !drawn.has(each)),
        suspicion,
      );
      for (const each of path) drawn.add(each);
      return fresh >= CONCERNED;
    })
    .slice(0, MOST_STRIPS);
  const shown = new Set(routes.flatMap(({ path }) => path));
  const beside = board.segments.filter(({ id }) => !shown.has(id) && (suspicion.get(id) ?? 0) >= CONCERNED);
  const suspects = [...suspicion].filter(([, share]) => share >= CONCERNED).map(([id]) => id);
  return (
    <>
      {suspects.length > 0 && <OnTheMap jobId={board.job.id} parts={suspects} />}
      {routes.map(({ circuit, path }) => (
        <SuspectStrip
          key={circuit.id}
          title={circuit.name}
          board={board}
          pieces={path.flatMap((each) => segments.get(each) ?? [])}
          suspicion={suspicion}
        />
      ))}
      {beside.length > 0 && (
        <SuspectStrip
          title={routes.length > 0 ? "Beside these routes" : "On no circuit's own route"}
          board={board}
          pieces={beside}
          suspicion={suspicion}
        />
      )}
    </>
  );
}

const sum = (path: string[], suspicion: Map<string, number>) =>
  path.reduce((whole, each) => whole + (suspicion.get(each) ?? 0), 0);
