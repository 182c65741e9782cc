/** What a job is called, of which vehicle it is, and what is wanted. */
import { Textarea, TextInput } from "@mantine/core";
import type { useForm } from "../parts/useForm";

type Texts = { name: string; vehicle: string; wish: string };

export function JobTexts({ text }: { text: ReturnType<typeof useForm<Texts>>["text"] }) {
  return (
    <>
      <TextInput label="Job" placeholder="what is to be done" data-autofocus {...text("name")} />
      <TextInput label="Vehicle" placeholder="as you call it in the shop" {...text("vehicle")} />
      <Textarea label="Complaint or wish" autosize minRows={2} {...text("wish")} />
    </>
  );
}
