/** That the tests are being worked out. */
import { useSaving } from "../saving/store";

/** What is logged and has not arrived yet. */
export function Waits() {
  const { waiting, trouble } = useSaving();
  if (waiting === 0) return null;
  return (
    <span className="waits" role="status">
      ▲ {trouble ? "no network" : "sending"}, {waiting} {waiting === 1 ? "waits" : "wait"}
    </span>
  );
}
