import { reactive } from "vue";

import { client, csrfToken, data, messageOf } from "@/api/client";
import { t } from "@/texts/intake";

import type { Dropped } from "./folders";

export type UploadState = "waiting" | "sending" | "taken" | "refused" | "stopped";

export interface Upload {
  path: string;
  bytes: number;
  sent: number;
  state: UploadState;
  message: string;
}

export interface Batch {
  name: string;
  intake: number | null;
  uploads: Upload[];
  state: "sending" | "sorting" | "stopped" | "failed";
  message: string;
}

const AT_ONCE = 3;

/** Send one file, telling how far it is. Plain XHR, because fetch does not say how much has been sent. */
function send(url: string, dropped: Dropped, upload: Upload, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", url);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => (upload.sent = event.loaded);
    request.onload = () => {
      const body = safeJson(request.responseText);
      if (request.status >= 400) {
        upload.state = "refused";
        upload.message = messageOf(body, request.status);
      } else {
        upload.state = "taken";
        upload.sent = upload.bytes;
        upload.message = (body as { problem?: string } | null)?.problem ?? "";
      }
      resolve();
    };
    request.onerror = () => reject(new Error(messageOf(null, 0)));
    request.onabort = () => reject(new DOMException("stopped", "AbortError"));
    signal.addEventListener("abort", () => request.abort());
    const form = new FormData();
    form.append("path", dropped.path);
    form.append("file", dropped.file, dropped.file.name);
    upload.state = "sending";
    request.send(form);
  });
}

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** Take files in: a few at a time, each with its own fate; then sort what was taken. Aborting gives the intake up. */
export function takeIn(
  slug: string,
  name: string,
  files: Dropped[],
  signal: AbortSignal,
): { batch: Batch; done: Promise<void> } {
  const batch = reactive<Batch>({
    name,
    intake: null,
    uploads: files.map((one) => ({
      path: one.path,
      bytes: one.file.size,
      sent: 0,
      state: "waiting",
      message: "",
    })),
    state: "sending",
    message: "",
  });
  return { batch, done: run(slug, batch, files, signal) };
}

async function run(slug: string, batch: Batch, files: Dropped[], signal: AbortSignal): Promise<void> {
  const path = { slug };
  try {
    const opened = await data(
      client.POST("/api/projects/{slug}/intakes", { params: { path }, body: { name: batch.name } }),
    );
    batch.intake = opened.id;
    await sendAll(`/api/projects/${slug}/intakes/${opened.id}`, batch, files, signal);
    if (!batch.uploads.some((one) => one.state === "taken")) throw new Error(t("noFileWasTakenSoThere"));
    batch.state = "sorting";
    await data(
      client.POST("/api/projects/{slug}/intakes/{pk}/sort", { params: { path: { slug, pk: opened.id } } }),
    );
  } catch (error) {
    const stopped = signal.aborted;
    batch.state = stopped ? "stopped" : "failed";
    batch.message = stopped ? t("stoppedNothingWasTakenIn") : (error as Error).message;
    for (const one of batch.uploads)
      if (one.state === "waiting" || one.state === "sending") one.state = "stopped";
    if (batch.intake !== null) {
      await client.DELETE("/api/projects/{slug}/intakes/{pk}", {
        params: { path: { slug, pk: batch.intake } },
      });
    }
  }
}

async function sendAll(url: string, batch: Batch, files: Dropped[], signal: AbortSignal): Promise<void> {
  let next = 0;
  async function lane(): Promise<void> {
    while (next < files.length) {
      signal.throwIfAborted();
      const at = next++;
      const dropped = files[at]!;
      const isZip = /\.zip$/i.test(dropped.path);
      await send(`${url}/${isZip ? "zip" : "files"}`, dropped, batch.uploads[at]!, signal);
    }
  }
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, files.length) }, lane));
}
