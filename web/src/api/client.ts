/** The typed client of Percorso's API, and the one error every failed request becomes. */
import createClient from "openapi-fetch";
import { leave, speaksFor } from "./person";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = { field: (string | number)[]; message: string };

/** A request that did not succeed; `status` 0 means that no answer came at all. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly problems: Problem[] = [],
    readonly current: Record<string, unknown> | null = null,
    readonly row: string | null = null,
  ) {
    super(message);
  }

  /** Whether the same request may succeed later: nobody said no. */
  get passing(): boolean {
    return this.status === 0 || this.status === 429 || this.status >= 500;
  }

  /** The message for one field, by the first part of its path or the whole path joined with dots. */
  about(field: string): string | undefined {
    return this.problems.find((each) => each.field.join(".") === field)?.message;
  }

  /** What concerns none of the given fields. */
  apartFrom(fields: string[]): string | undefined {
    const rest = this.problems.filter((each) => !fields.includes(each.field.join(".")));
    if (rest.length > 0) return rest.map((each) => each.message).join("; ");
    return this.problems.length === 0 ? this.message : undefined;
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export async function errorFrom(response: Response): Promise<ApiError> {
  const body = await response.json().catch(() => ({}));
  const message = body.message ?? `the server answered ${response.status}`;
  return new ApiError(
    response.status,
    body.code ?? "",
    message,
    body.problems,
    body.current ?? null,
    body.row ?? null,
  );
}

export const api = createClient<paths>({ baseUrl: "/", credentials: "same-origin" });
api.use({
  onRequest({ request }) {
    request.headers.set("X-CSRFToken", csrfToken());
    for (const [name, value] of Object.entries(speaksFor())) request.headers.set(name, value);
    return request;
  },
  async onResponse({ response }) {
    if (response.ok) return;
    const error = await errorFrom(response);
    if (error.code === "somebody-else") leave();
    throw error;
  },
  onError({ error }) {
    return error instanceof ApiError ? error : new ApiError(0, "offline", "the server does not answer");
  },
});

/** The data of a successful answer. */
export async function answer<T>(request: Promise<{ data?: T }>): Promise<T> {
  return (await request).data as T;
}
