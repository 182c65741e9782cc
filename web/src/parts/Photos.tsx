/** The photos of a reading, a point or a part, and one more: taken with the phone, or chosen from a folder. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../api/client";
import { addFile } from "../saving/saving";
import { useWaiting } from "../saving/store";
import { FilePick } from "./FilePick";

const PICTURES = "image/jpeg,image/png,image/webp";

type Props = { jobId: string; of: Schemas["PhotoOut"]["of"]; subjectId: string; name: string };

export function Photos({ jobId, of, subjectId, name }: Props) {
  const [problem, setProblem] = useState("");
  const about = `photo of ${subjectId}`;
  const waits = useWaiting().has(about);
  const photos = useQuery({
    queryKey: ["photos", jobId],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/photos", { params: { path: { job_id: jobId } } })),
  });
  async function send(file: File) {
    setProblem("");
    const body = { id: crypto.randomUUID(), of, subject_id: subjectId, caption: "" };
    const params = { job_id: jobId };
    try {
      await addFile(`photo of ${name}`, "/api/jobs/{job_id}/photos", params, body, file, about);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  }
  const here = photos.data?.filter((each) => each.of === of && each.subject_id === subjectId) ?? [];
  return (
    <span className="photos">
      <FilePick accept={PICTURES} label={`photo of ${name}`} onPick={(file) => void send(file)}>
        photo
      </FilePick>
      {here.map((each) => (
        <a key={each.id} href={`/api/photos/${each.id}`} target="_blank" rel="noreferrer">
          <img
            src={`/api/photos/${each.id}/thumbnail`}
            alt={each.caption || `photo of ${name}`}
            className="thumb"
          />
        </a>
      ))}
      {waits && <span className="waits">▲ a photo waits</span>}
      {problem && <span className="problem">{problem}</span>}
    </span>
  );
}
