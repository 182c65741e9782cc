/** One circuit: its route and profile, the inspector of the chosen segment, its findings and its readings. */
import { Text } from "@mantine/core";
import { useState } from "react";
import { Navigate, useParams } from "react-router";
import { type Offer, type Trial, useBoard } from "../api/queries";
import { OpenCircuit } from "./OpenCircuit";
import { type Series, useCircuit, useReadingsOf, useWhatIf } from "./queries";

/** The first circuit of a job, where the address names none. */
export function FirstCircuit() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  if (!board) return null;
  const first = board.lines[0]?.circuit.id;
  return <Navigate to={first ? `/jobs/${jobId}/circuits/${first}` : `/jobs/${jobId}`} replace />;
}

export function CircuitRoom() {
  const { jobId = "", circuitId = "" } = useParams();
  const [series, setSeries] = useState<Series | null>(null);
  const [trial, setTrial] = useState<Trial | null>(null);
  const [metal, setMetal] = useState<Offer[]>([]);
  const saved = useCircuit(jobId, circuitId, series, metal);
  const tried = useWhatIf(jobId, circuitId, trial, series, metal);
  const readings = useReadingsOf(jobId, circuitId);
  const base = saved.data;
  const view = trial && tried.data?.circuit.id === circuitId ? tried.data : base;
  if (saved.isError && saved.error.message) return <p className="page empty">{saved.error.message}</p>;
  if (!base || !view) return <Text className="page quiet">Computing the circuit …</Text>;
  return (
    <OpenCircuit
      key={circuitId}
      {...{ base, view, readings, series, setSeries, trial, setTrial, metal, setMetal }}
    />
  );
}
