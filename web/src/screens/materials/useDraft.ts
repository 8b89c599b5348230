import { ref, type Ref, watch } from "vue";

import { merged } from "@/api/conflicts";
import type { Problem, Sheet } from "@/api/materials";

const KEEP_MS = 500;

/** Something of the library with a document that is written. */
interface Entry<D> {
  name: string;
  document: D;
}

const copied = <D>(document: D): D => JSON.parse(JSON.stringify(document)) as D;

/** A document while it is written: read by the server after every change, kept as a draft when it reads. */
export function useDraft<D extends { name: string }, E extends Entry<D>>(
  entry: () => E | null,
  readDocument: (document: D) => Promise<{ problem: Problem | null; sheet: Sheet | null }>,
  keepDraft: (name: string, document: D, seen: E | null) => Promise<E | null>,
) {
  const document = ref(null) as Ref<D | null>;
  const sheet = ref<Sheet | null>(null);
  const problem = ref<Problem | null>(null);
  const said = ref("");
  let asked = 0;
  let timer = 0;
  /** What the document was begun from. */
  let seen: E | null = null;

  async function read(): Promise<void> {
    if (!document.value) return;
    const mine = ++asked;
    try {
      const told = await readDocument(document.value);
      if (mine !== asked) return;
      problem.value = told.problem;
      if (told.sheet) sheet.value = told.sheet;
      said.value = "";
    } catch (error) {
      said.value = (error as Error).message;
    }
  }
  watch(
    [() => entry()?.name, () => JSON.stringify(entry()?.document ?? null)],
    () => {
      if (timer) return;
      seen = entry();
      document.value = copied(entry()?.document ?? null);
      void read();
    },
    { immediate: true },
  );

  /** Change the document. What does not read is shown with its place, and is not kept. */
  async function change(edit: (document: D) => void): Promise<void> {
    if (!document.value) return;
    const next = copied(document.value);
    edit(next);
    document.value = next;
    await read();
    if (problem.value) return;
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void saveDraft(next), KEEP_MS);
  }
  /** Write the draft; what others wrote beside it is taken in. */
  async function saveDraft(next: D): Promise<void> {
    const mine = timer;
    const kept = await keepDraft(next.name, next, seen);
    if (timer !== mine) return;
    timer = 0;
    if (kept) seen = kept;
    if (!kept || !document.value) return;
    // What others wrote beside it is there now too, below what was edited while it was kept.
    const both = merged(next, document.value, kept.document).value;
    if (JSON.stringify(both) !== JSON.stringify(document.value)) {
      document.value = copied(both);
      await read();
    }
  }
  return { document, sheet, problem, said, change };
}
