/** Talking to the server: JSON in and out, CSRF token sent, every failure a sentence. */
import type { RefusedDetail } from "./types";

/** Asking was stopped from here: nothing is to be said of it. */
export class Stopped extends Error {}

export class Refused extends Error {
  constructor(
    public sentence: string,
    public status: number,
    public detail: RefusedDetail = {},
    public body: Record<string, unknown> = {},
  ) {
    super(sentence);
  }
}

function token(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

async function send<T>(path: string, init: RequestInit = {}): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(path, {
      ...init,
      headers: { "X-CSRFToken": token(), ...(init.headers as Record<string, string>) },
    });
  } catch (error) {
    if (init.signal?.aborted) throw new Stopped(String(error));
    throw new Refused("The server does not answer. What is on screen is stored up to the last tick.", 0);
  }
  if (answer.ok) return (await answer.json()) as T;
  let body: Record<string, unknown> = {};
  try {
    body = await answer.json();
  } catch {
    // an answer without JSON: the status says enough
  }
  const sentence =
    typeof body.sentence === "string"
      ? body.sentence
      : `The server could not do this (${answer.status}). Try again.`;
  throw new Refused(sentence, answer.status, (body.detail as RefusedDetail) ?? {}, body);
}

/** Whether to ask once more: what was asked about has just changed, or is still being worked out. */
export const askAgain = (times: number, error: unknown) =>
  times < 3 && error instanceof Refused && error.detail.offer === "again";

/** ``signal``: the server stops working on it when this is set off. */
export const get = <T>(path: string, signal?: AbortSignal) => send<T>(path, { signal });

export const post = <T>(path: string, data: unknown = {}) =>
  send<T>(path, {
    method: "POST",
    body: JSON.stringify(data),
    headers: { "Content-Type": "application/json" },
  });

const LARGEST = 20_000_000; // bytes the server takes of one file

export const upload = async <T>(
  path: string,
  fields: Record<string, string | Blob>,
  signal?: AbortSignal,
) => {
  const form = new FormData();
  if (Object.values(fields).some((v) => v instanceof Blob && v.size > LARGEST))
    throw new Refused("This file is larger than 20 MB. Make it smaller and try again.", 413);
  for (const [k, v] of Object.entries(fields)) form.append(k, v);
  return send<T>(path, { method: "POST", body: form, signal });
};

/** Fetch a file and hand it to the browser's downloads, named as the server says; what the answer's head tells. */
export async function download(path: string, signal?: AbortSignal): Promise<Headers> {
  let answer: Response;
  try {
    answer = await fetch(path, { signal });
  } catch (error) {
    if (signal?.aborted) throw new Stopped(String(error));
    throw new Refused("The server does not answer. Try again when it does.", 0);
  }
  if (!answer.ok) {
    const body = await answer.json().catch(() => ({}));
    throw new Refused(body.sentence ?? "This file could not be written. Try again.", answer.status);
  }
  const said = answer.headers.get("Content-Disposition") ?? "";
  const coded = said.match(/filename\*=utf-8''([^;]+)/i)?.[1];
  const name = coded ? decodeURIComponent(coded) : (said.match(/filename="([^"]+)"/)?.[1] ?? "part");
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await answer.blob());
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  return answer.headers;
}
