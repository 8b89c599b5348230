import createClient from "openapi-fetch";

import { t } from "@/texts/api";

import type { paths } from "./generated/schema";

/** An answer that says no; its message is meant for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
    /** The thing as it is now, where the change was meant for an older state of it. */
    readonly newest?: unknown,
  ) {
    super(message);
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: "", fetch: (request) => fetch(request) });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
});

/** The message of an error body: a sentence, or the framework's list of what is wrong with which field. */
export function messageOf(body: unknown, status: number): string {
  const detail = (body as { detail?: unknown } | null)?.detail;
  if (typeof detail === "string") return detail;
  if (Array.isArray(detail)) {
    return detail
      .map((one: { loc?: unknown[]; msg?: string }) => `${String(one.loc?.at(-1))}: ${one.msg}`)
      .join("; ");
  }
  return status === 0 ? t("theServerDoesNotAnswer") : t("theServerAnswered", { status });
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer, or an ApiError. */
export async function data<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new ApiError(0, messageOf(null, 0));
  }
  if (!answer.response.ok)
    throw new ApiError(
      answer.response.status,
      messageOf(answer.error, answer.response.status),
      (answer.error as { newest?: unknown } | undefined)?.newest,
    );
  return answer.data as T;
}

/** The answer of an address. Throws an ApiError. */
export async function fetched(url: string, signal?: AbortSignal): Promise<Response> {
  const answer = await fetch(url, { signal });
  if (!answer.ok)
    throw new ApiError(answer.status, messageOf(await answer.json().catch(() => null), answer.status));
  return answer;
}

/** What lies at an address, as it is. Throws an ApiError. */
export const fetchBytes = async (url: string): Promise<ArrayBuffer> => (await fetched(url)).arrayBuffer();

/** Send files in a form. seen: the state that the change is meant for. Throws an ApiError. */
export async function sendForm<T>(url: string, form: FormData, seen?: string): Promise<T> {
  const headers: Record<string, string> = { "X-CSRFToken": csrfToken() };
  if (seen !== undefined) headers["If-Match"] = seen;
  const answer = await fetch(url, { method: "POST", body: form, headers });
  const body = (await answer.json().catch(() => null)) as T & { newest?: unknown };
  if (!answer.ok) throw new ApiError(answer.status, messageOf(body, answer.status), body?.newest);
  return body;
}
