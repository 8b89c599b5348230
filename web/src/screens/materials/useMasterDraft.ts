import { ref, watch } from "vue";

import { merged } from "@/api/conflicts";
import {
  type Master,
  type MasterDocument,
  type ParameterValue,
  type Problem,
  readSheet,
  type Sheet,
  type SheetDocument,
  type SheetRow,
} from "@/api/materials";

const KEEP_MS = 500;

/** A master's document while it is written: read by the server after every change, kept as a draft when it reads. */
export function useMasterDraft(
  master: () => Master | null,
  keepDraft: (name: string, document: MasterDocument, seen: Master | null) => Promise<Master | null>,
) {
  const document = ref<MasterDocument | null>(null);
  const sheet = ref<Sheet | null>(null);
  const problem = ref<Problem | null>(null);
  const said = ref("");
  let asked = 0;
  let timer = 0;
  /** The master that the document was begun from. */
  let seen: Master | null = null;

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
    [() => master()?.name, () => JSON.stringify(master()?.document ?? null)],
    () => {
      if (timer) return;
      seen = master();
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
    timer = window.setTimeout(() => void saveDraft(next), KEEP_MS);
  }
  /** Write the draft; what others wrote beside it is taken in. */
  async function saveDraft(next: MasterDocument): Promise<void> {
    const mine = timer;
    const kept = await keepDraft(next.name, next, seen);
    if (timer !== mine) return;
    timer = 0;
    if (kept) seen = kept;
    if (!kept || !document.value) return;
    // What others wrote beside it is there now too, below what was edited while it was kept.
    const both = merged(next, document.value, kept.document).value;
    if (JSON.stringify(both) !== JSON.stringify(document.value)) {
      document.value = JSON.parse(JSON.stringify(both)) as MasterDocument;
      await read();
    }
  }

  /** Where a row stands: its sheet, a layer's or the master's own, and what it is called there. */
  function place(
    edited: MasterDocument,
    row: SheetRow,
  ): { sheet: SheetDocument; name: string; isInput: boolean } {
    const { origin } = row;
    if (!origin) return { sheet: edited as SheetDocument, name: row.name, isInput: row.is_input };
    const layer = edited.layers!.find((one) => one.name === origin.layer)!;
    return { sheet: layer.sheet, name: origin.row, isInput: origin.is_input };
  }
  function write(row: SheetRow, text: string): Promise<void> {
    return change((edited) => {
      const { sheet: own, name, isInput } = place(edited, row);
      if (isInput) own.inputs[name] = text;
      else own.rows!.find((one) => one.name === name)!.expression = text;
    });
  }
  function drop(row: SheetRow): Promise<void> {
    return change((edited) => {
      const { sheet: own, name, isInput } = place(edited, row);
      if (isInput) delete own.inputs[name];
      else own.rows = own.rows!.filter((one) => one.name !== name);
    });
  }
  /** Where a parameter begins: in the sheet, in a layer's sheet, or in a layer's mask. */
  function begin(name: string, value: ParameterValue): Promise<void> {
    return change((edited) => {
      const find = (of: SheetDocument, key: string) => of.parameters?.find((one) => one.name === key);
      for (const layer of edited.layers ?? []) {
        if (!name.startsWith(`${layer.name}_`)) continue;
        const key = name.slice(layer.name.length + 1);
        const own = find(layer.sheet, key);
        if (own) own.default = value;
        else layer.mask = { ...layer.mask, [key]: value };
        return;
      }
      find(edited as SheetDocument, name)!.default = value;
    });
  }
  return { document, sheet, problem, said, change, write, drop, begin };
}
