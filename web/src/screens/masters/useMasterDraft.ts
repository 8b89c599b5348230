import { ref, watch } from "vue";

import {
  type Master,
  type MasterDocument,
  type Problem,
  readSheet,
  type Sheet,
  type SheetRow,
} from "@/api/materials";

const KEEP_MS = 500;

/** A master's document while it is written: read by the server after every change, kept as a draft when it reads. */
export function useMasterDraft(
  master: () => Master | null,
  keepDraft: (name: string, document: MasterDocument) => Promise<unknown>,
) {
  const document = ref<MasterDocument | null>(null);
  const sheet = ref<Sheet | null>(null);
  const problem = ref<Problem | null>(null);
  const said = ref("");
  let asked = 0;
  let timer = 0;

  async function read(): Promise<void> {
    if (!document.value) return;
    const mine = ++asked;
    try {
      const told = await readSheet(document.value);
      if (mine !== asked) return;
      problem.value = told.problem;
      if (told.sheet) sheet.value = told.sheet;
      said.value = "";
    } catch (error) {
      said.value = (error as Error).message;
    }
  }
  watch(
    () => [master()?.name, JSON.stringify(master()?.document ?? null)],
    () => {
      if (timer) return;
      document.value = JSON.parse(JSON.stringify(master()?.document ?? null)) as MasterDocument | null;
      void read();
    },
    { immediate: true },
  );

  /** Change the document. What does not read is shown with its place, and is not kept. */
  async function change(edit: (document: MasterDocument) => void): Promise<void> {
    if (!document.value) return;
    const next = JSON.parse(JSON.stringify(document.value)) as MasterDocument;
    edit(next);
    document.value = next;
    await read();
    if (problem.value) return;
    window.clearTimeout(timer);
    timer = window.setTimeout(async () => {
      await keepDraft(next.name, next);
      timer = 0;
    }, KEEP_MS);
  }

  function write(row: SheetRow, text: string): Promise<void> {
    return change((edited) => {
      if (row.is_input) edited.inputs[row.name] = text;
      else edited.rows!.find((one) => one.name === row.name)!.expression = text;
    });
  }
  function drop(row: SheetRow): Promise<void> {
    return change((edited) => {
      if (row.is_input) delete edited.inputs[row.name];
      else edited.rows = edited.rows!.filter((one) => one.name !== row.name);
    });
  }
  return { document, sheet, problem, said, change, write, drop };
}
