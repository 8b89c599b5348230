import {
  type Master,
  type MasterDocument,
  type ParameterValue,
  readSheet,
  type SheetDocument,
  type SheetRow,
} from "@/api/materials";

import { useDraft } from "./useDraft";

/** A master's document while it is written, row by row. */
export function useMasterDraft(
  master: () => Master | null,
  keepDraft: (name: string, document: MasterDocument, seen: Master | null) => Promise<Master | null>,
) {
  const draft = useDraft<MasterDocument, Master>(master, readSheet, keepDraft);
  const { change } = draft;

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
  /** Another document in its place. */
  function replace(document: MasterDocument): Promise<void> {
    return change((edited) => {
      for (const key of Object.keys(edited)) delete (edited as unknown as Record<string, unknown>)[key];
      Object.assign(edited, document);
    });
  }
  return { ...draft, write, drop, begin, replace };
}
