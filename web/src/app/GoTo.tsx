/** Go anywhere: jobs by name, and the circuits and segments of the job that is open. */
import { Modal, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useState } from "react";
import { useNavigate } from "react-router";
import { type Board, useBoard } from "../api/queries";
import { toOpen } from "../jobs/OpenJob";
import { useJobs } from "../jobs/queries";

type Place = { name: string; kind: string; to: string };

function placesIn(board: Board | undefined): Place[] {
  if (!board) return [];
  return board.lines.map(({ circuit }) => ({
    name: circuit.name,
    kind: `circuit, ${circuit.device}`,
    to: `/jobs/${board.job.id}/circuits/${circuit.id}`,
  }));
}

export function GoTo({ jobId, onClose }: { jobId: string | undefined; onClose: () => void }) {
  const [wanted, setWanted] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const [searched] = useDebouncedValue(wanted, 150);
  const found = useJobs({ archived: false, search: searched });
  const board = useBoard(jobId ?? "", jobId !== undefined).data;
  const isNamed = (place: Place) =>
    `${place.name} ${place.kind}`.toLowerCase().includes(wanted.toLowerCase());
  const jobs = (found.data?.pages.flat() ?? []).map((job) => ({
    name: job.name,
    kind: `job, ${job.vehicle}`,
    to: toOpen(job.id),
  }));
  const places = [
    ...placesIn(board).filter(isNamed),
    // what the server found it may have found by a part or a note; what stands there from before is chosen from by name
    ...(found.isPlaceholderData || searched !== wanted ? jobs.filter(isNamed) : jobs),
    ...[{ name: "All jobs", kind: "list", to: "/" }].filter(isNamed),
  ];

  function go(place: Place | undefined) {
    if (!place) return;
    onClose();
    navigate(place.to);
  }

  return (
    <Modal opened onClose={onClose} title="Go to" size="md" closeButtonProps={{ "aria-label": "Close" }}>
      <TextInput
        data-autofocus
        aria-label="Go to"
        placeholder="a circuit or a job"
        value={wanted}
        onChange={(event) => {
          setWanted(event.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(at + 1, places.length - 1));
          if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          if (event.key === "Enter") go(places[at]);
        }}
      />
      <ul className="places">
        {places.slice(0, 9).map((place, index) => (
          <li key={place.to}>
            <button type="button" className={index === at ? "place at" : "place"} onClick={() => go(place)}>
              <strong>{place.name}</strong> <span>{place.kind}</span>
            </button>
          </li>
        ))}
        {places.length === 0 && <li className="quiet">Nothing of that name here.</li>}
      </ul>
    </Modal>
  );
}
