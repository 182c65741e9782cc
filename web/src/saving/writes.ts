/** What a change on its way to the server is, by the API's own contract. */
import type { paths } from "../api/schema";

export type Method = "post" | "patch";
export type Writable<M extends Method> = {
  [Path in keyof paths]: paths[Path][M] extends { responses: unknown } ? Path : never;
}[keyof paths];
export type Body<Operation> = Operation extends { requestBody: { content: { "application/json": infer B } } }
  ? B
  : undefined;
export type FormOf<Operation> = Operation extends {
  requestBody: { content: { "multipart/form-data": infer B } };
}
  ? Omit<B, "file">
  : never;
export type Answer<Operation> = Operation extends {
  responses: { 200: { content: { "application/json": infer A } } };
}
  ? A
  : never;
export type Params = Record<string, string>;

/**
 * A change that is to be written: by the API's own contract, with the parts of its path by name. `about` is what on the
 * screen it is of, where that shows what waits. A change with a file is sent as a form, the file under its own name.
 */
export type Write = {
  key: string;
  what: string;
  about?: string | undefined;
  method: Method;
  path: string;
  params: Params;
  body?: Record<string, unknown> | undefined;
  withFile?: boolean;
  /** Nothing else on the screen changes with it: what it is answered with is heard (see `hear`). */
  isQuiet?: boolean;
};
