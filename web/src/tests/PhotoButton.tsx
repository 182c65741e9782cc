/** A photo for a reading: taken with the phone, or chosen from a folder. */
import { Button, FileButton } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, csrfToken, errorFrom } from "../api/client";

export function PhotoButton({ jobId, readingId }: { jobId: string; readingId: string }) {
  const [problem, setProblem] = useState("");
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  const photos = useQuery({
    queryKey: ["photos", jobId],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/photos", { params: { path: { job_id: jobId } } })),
  });
  async function send(file: File | null) {
    if (!file) return;
    setBusy(true);
    setProblem("");
    const body = new FormData();
    body.set("id", crypto.randomUUID());
    body.set("of", "reading");
    body.set("subject_id", readingId);
    body.set("file", file);
    const headers = { "X-CSRFToken": csrfToken() };
    try {
      const response = await fetch(`/api/jobs/${jobId}/photos`, { method: "POST", body, headers });
      if (!response.ok) setProblem((await errorFrom(response)).message);
      await client.invalidateQueries({ queryKey: ["photos", jobId] });
    } catch {
      setProblem("the server does not answer; take the photo again when it does");
    } finally {
      setBusy(false);
    }
  }
  const here = photos.data?.filter((each) => each.of === "reading" && each.subject_id === readingId) ?? [];
  return (
    <>
      <FileButton accept="image/jpeg,image/png,image/webp" onChange={(file) => void send(file)}>
        {(props) => (
          <Button {...props} variant="default" loading={busy}>
            photo
          </Button>
        )}
      </FileButton>
      {here.map((each) => (
        <a key={each.id} href={`/api/photos/${each.id}`} target="_blank" rel="noreferrer">
          <img
            src={`/api/photos/${each.id}/thumbnail`}
            alt={each.caption || "photo of this reading"}
            className="thumb"
          />
        </a>
      ))}
      {problem && <p className="problem">{problem}</p>}
    </>
  );
}
