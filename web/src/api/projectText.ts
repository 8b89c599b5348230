/** A project as text: a folder of small documents that people keep in version control, compared and brought in. */
import { t } from "@/texts/overview";

import { sendForm } from "./client";
import type { components } from "./generated/schema";

export type TextCompared = components["schemas"]["TextCompared"];
type TextBrought = components["schemas"]["TextBrought"];
export interface FolderText {
  documents: Record<string, unknown>;
  /** Digests by key from when folder and studio were the same last. */
  exported: Record<string, string>;
}
export type Side = "here" | "studio";

const PROJECT = "project.json";
const EXPORTED = "exported.json";
const OWN = /^(project|(rules\/[a-z]+|masters|sets|casts|models|ground|destinations)\/[^/]+)\.json$/;

async function documentOf(file: File, path: string): Promise<Record<string, unknown>> {
  try {
    const read = JSON.parse((await file.text()).replace(/^\uFEFF/, "")) as unknown;
    if (typeof read === "object" && read !== null && !Array.isArray(read))
      return read as Record<string, unknown>;
  } catch {
    // Told below, as what is no document.
  }
  throw new Error(t("isNoJsonDocument", { path }));
}

/** The documents in a chosen folder, or in one inside of it; other files are left alone. Throws where there are none. */
export async function readFolder(files: File[]): Promise<FolderText> {
  const paths = files.map((file) => [file, file.webkitRelativePath || file.name] as const);
  const roots = paths
    .filter(([, path]) => path === PROJECT || path.endsWith(`/${PROJECT}`))
    .map(([, path]) => path.slice(0, -PROJECT.length))
    .sort((one, other) => one.length - other.length);
  const [root] = roots;
  if (root === undefined) throw new Error(t("noProjectInThisFolder"));
  const found: FolderText = { documents: {}, exported: {} };
  for (const [file, path] of paths) {
    const inside = path.startsWith(root) ? path.slice(root.length) : "";
    if (inside === EXPORTED) {
      const { parts } = await documentOf(file, inside);
      found.exported = (parts ?? {}) as Record<string, string>;
    } else if (OWN.test(inside)) found.documents[inside] = await documentOf(file, inside);
  }
  return found;
}

function sent<T>(slug: string, action: string, given: object): Promise<T> {
  const form = new FormData();
  form.append("file", new Blob([JSON.stringify(given)], { type: "application/json" }), "text.json");
  return sendForm<T>(`/api/projects/${slug}/text${action}`, form);
}
export const compareText = (slug: string, text: FolderText) => sent<TextCompared[]>(slug, "/compare", text);
/** take: by key, for what both sides changed. */
export const bringText = (slug: string, text: FolderText, take: Record<string, Side>) =>
  sent<TextBrought>(slug, "", { ...text, take });
export const textZip = (slug: string) => `/api/projects/${slug}/text/zip`;
