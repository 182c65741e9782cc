/** What the map reads from the server: the page in the state that is looked at. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../api/client";
import { asQuery, useViewing } from "../app/viewing";

export function useMap(jobId: string) {
  const query = asQuery(useViewing(jobId));
  return useQuery({
    queryKey: ["map", jobId, query],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/map", { params: { path: { job_id: jobId }, query } })),
    placeholderData: keepPreviousData,
  });
}

export type Picture = NonNullable<ReturnType<typeof useMap>["data"]>;
export type Row = Schemas["DrawnRow"];
export type Piece = Schemas["DrawnSegment"];
export type Line = Schemas["Stroke"];
