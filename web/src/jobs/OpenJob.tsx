/** Where a job opens: on its map once it has a battery, else where its first circuit is laid. */
import { Navigate, useParams } from "react-router";
import { useBoard } from "../api/queries";

export const toOpen = (jobId: string) => `/jobs/${jobId}/open`;

export function OpenJob() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  if (!board) return <p className="page quiet">Reading the job …</p>;
  return <Navigate to={`/jobs/${jobId}${board.moment.is_fed ? "/vehicle" : ""}`} replace />;
}
