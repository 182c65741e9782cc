/** The way from any room to the map, with what one looks at lit there. */
import { Link } from "react-router";

export const LIT = "light"; // of the address: the parts that are lit, by their ids

export const onTheMap = (jobId: string, parts: string[]) =>
  `/jobs/${jobId}/vehicle?${new URLSearchParams({ [LIT]: parts.join(",") })}`;

export function OnTheMap({ jobId, parts }: { jobId: string; parts: string[] }) {
  if (parts.length === 0) return null;
  return (
    <Link to={onTheMap(jobId, parts)} className="link no-print">
      On the map
    </Link>
  );
}
