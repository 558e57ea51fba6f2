// How the server is asked, and what is said when a request fails.

const SIGN_IN = "/sign-in/";

// What every request of the page carries, so that the server knows it is ours. The cookie is as new as the last sign-in,
// in whichever tab that was.
export function pageHeaders(): Record<string, string> {
  const given = JSON.parse(document.body.getAttribute("hx-headers") ?? "{}") as Record<string, string>;
  const cookie = document.cookie.match(/(?:^|; )csrftoken=([^;]+)/);
  return cookie?.[1] ? { ...given, "X-CSRFToken": cookie[1] } : given;
}

// Why a request that reached nobody, or nobody who could do it, failed; "" when it was done or refused with an answer.
// What was typed is still on the page.
export function troubleOf(status: number, url: string): string {
  if (!status) return "The change did not reach the server; what you did is still on this page. Look at the connection, then do it again.";
  if (new URL(url, location.href).pathname === SIGN_IN) return "You are signed out, so this was not kept. Sign in again in another tab, then do it again here.";
  if (status === 403) return "This page is older than your sign-in, so this was not kept. Do it again; if that fails, reload the page.";
  if (status === 404) return "This is not there any more, or is not yours to change. Reload the page.";
  if (status === 413) return "This is larger than the server takes; nothing was changed.";
  if (status === 503) return "The database is not answering; it is being started again. This was not kept: do it again in a moment.";
  if (status >= 500 && status !== 507) return "Something went wrong on our side, and this was not kept. Do it again; if that fails too, reload the page.";
  return "";
}

// Nobody was reached.
export class NoConnection extends Error {}

// What was thrown, in a sentence.
export const sentenceOf = (failed: unknown): string => (failed instanceof Error ? failed.message : String(failed));

// Ask the server; the response, or an Error that says in a sentence why there is none.
export async function ask(url: string, init: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(url, { method: "POST", ...init, headers: { ...init.headers, ...pageHeaders() } });
  } catch (failed) {
    console.debug(failed);
    throw new NoConnection(troubleOf(0, url));
  }
  const trouble = troubleOf(response.status, response.url);
  if (trouble) throw new Error(trouble);
  return response;
}

// A form with these fields.
export function formOf(fields: Record<string, string | number | boolean | Blob>): FormData {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value instanceof Blob ? value : String(value));
  return form;
}

// What the server answers may instead be why it does not.
export type Or<T> = Partial<T> & { problem?: string };

const json = async <T>(asked: Promise<Response>): Promise<T> => (await asked).json() as Promise<T>;

// What the server says at an address, and what it answers to something sent there; see ask for what goes wrong.
export const get = <T>(url: string): Promise<T> => json<T>(ask(url, { method: "GET" }));
export const post = <T>(url: string, what: unknown): Promise<T> => json<T>(ask(url, { headers: { "Content-Type": "application/json" }, body: JSON.stringify(what) }));
export const sendForm = <T>(url: string, body: BodyInit): Promise<T> => json<T>(ask(url, { body }));

// How long to wait after so many times: longer each time, and never as long as everybody else who waits.
const [AGAIN_MS, MOST_MS, LONGER] = [2000, 15000, 1.6];
export const waitAfter = (times: number): number => Math.min(MOST_MS, AGAIN_MS * LONGER ** times) * (0.5 + Math.random() / 2);

// Wait a little, or until the browser says that it is connected again.
export const aWhile = (times = 0): Promise<void> =>
  new Promise((resolve) => {
    const over = new AbortController();
    const done = () => {
      over.abort();
      clearTimeout(timer);
      resolve();
    };
    const timer = setTimeout(done, waitAfter(times));
    globalThis.addEventListener?.("online", done, { signal: over.signal });
  });

export const pause = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

export interface Job {
  state: string;
  progress: number;
  message: string;
  ended: boolean;
}

const JOB_MS = 200;

// Ask for a job until it has ended; progress(share) hears how far it has come. An Error when it cannot be asked for.
export async function jobEnded(job: string, progress: (share: number) => void = () => {}): Promise<Job> {
  for (;;) {
    const now = await json<Job>(ask(job, { method: "GET", headers: { Accept: "application/json" } }));
    progress(now.progress);
    if (now.ended) return now;
    await pause(JOB_MS);
  }
}
