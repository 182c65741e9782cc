/** Where a job opens: on its map once it has a battery, else where its first circuit is laid. */
import { useEffect } from "react";
import { useNavigate, useParams } from "react-router";
import { useBoard } from "../api/queries";

export const toOpen = (jobId: string) => `/jobs/${jobId}/open`;

export function OpenJob() {
  const { jobId = "" } = useParams();
  const board = useBoard(jobId).data;
  const navigate = useNavigate();
  useEffect(() => {
    // Somebody may have gone on to another room while the job was read.
    if (board && window.location.pathname === toOpen(jobId))
      navigate(`/jobs/${jobId}${board.moment.is_fed ? "/vehicle" : ""}`, { replace: true });
  }, [board, jobId, navigate]);
  return <p className="page quiet">Reading the job …</p>;
}
