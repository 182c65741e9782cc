/** The state of one small form: what was typed, and what the server said about it. */
import { useState } from "react";
import { ApiError } from "../api/client";

export function useForm<Values extends Record<string, string>>(start: Values) {
  const [values, setValues] = useState(start);
  const [error, setError] = useState<ApiError | null>(null);
  const [busy, setBusy] = useState(false);

  /** Send, then close; a refusal stays beside its field and everything typed stays in place. */
  async function submit(send: () => Promise<unknown>, done: () => void) {
    setBusy(true);
    setError(null);
    try {
      await send();
      done();
    } catch (problem) {
      if (!(problem instanceof ApiError)) throw problem;
      setError(problem);
    } finally {
      setBusy(false);
    }
  }

  /** What a field needs that hands its text over; `path` is the field's path in the API, if another. */
  const field = (name: keyof Values & string, path: string = name) => ({
    name,
    value: values[name] ?? "",
    error: error?.about(path),
    onChange: (text: string) => setValues((old) => ({ ...old, [name]: text })),
  });

  return {
    values,
    field,
    /** The same for a field that hands over its event. */
    text: (name: keyof Values & string, path: string = name) => {
      const { onChange, ...rest } = field(name, path);
      return {
        ...rest,
        onChange: (event: { currentTarget: { value: string } }) => onChange(event.currentTarget.value),
      };
    },
    busy,
    submit,
    set: (change: Partial<Values>) => setValues((old) => ({ ...old, ...change })),
    /** What was said that belongs to none of the named fields. */
    remark: (fields: string[]) => error?.apartFrom(fields),
  };
}
