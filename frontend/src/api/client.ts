import createClient, { type Middleware } from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** What went wrong, as one sentence that can be shown. */
export class Problem extends Error {
  constructor(
    sentence: string,
    readonly status: number,
  ) {
    super(sentence);
  }
}

let token = "";

export function rememberToken(fresh: string): void {
  token = fresh;
}

const withToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRF-Token", token);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(withToken);

const OFFLINE = "The connection is gone. Nothing is lost; try again in a moment.";

/** Unwraps an answer: its data, or a Problem with the server's own sentence. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw new Problem(OFFLINE, 0);
  }
  if (result.data !== undefined) return result.data;
  throw problemFrom(result.error, result.response.status);
}

export function problemFrom(body: unknown, status: number): Problem {
  const sentence = (body as { error?: string } | undefined)?.error;
  return new Problem(sentence ?? "Something went wrong. Please try again.", status);
}

/** Sends a take as multipart, with its progress: fetch can not tell how far an upload is. */
export function sendTake(
  fields: Record<string, string>,
  sound: Blob,
  fileName: string,
  onShare: (share: number) => void,
) {
  return new Promise<Schemas["TakeReceipt"]>((resolve, reject) => {
    const form = new FormData();
    for (const [name, value] of Object.entries(fields)) form.append(name, value);
    form.append("sound", sound, fileName);
    const request = new XMLHttpRequest();
    request.open("POST", "/api/takes");
    request.setRequestHeader("X-CSRF-Token", token);
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && onShare(event.loaded / event.total);
    request.onerror = () => reject(new Problem(OFFLINE, 0));
    request.onload = () =>
      request.status < 300
        ? resolve(request.response as Schemas["TakeReceipt"])
        : reject(problemFrom(request.response, request.status));
    request.send(form);
  });
}
