import { computed, inject, type InjectionKey, provide, ref, type Ref } from "vue";

import { drawOut, type DrawnOut, type FunctionRow, intoSheet, useFunctions } from "@/api/functions";
import {
  type CalledFunction,
  type Chain,
  type MasterDocument,
  type Operation,
  type Sheet,
  type SheetRow,
  textOfChain,
} from "@/api/materials";

import { newLink } from "./chains";

/** What a person asks a function to be made of. */
export interface Wanted {
  title: string;
  first: number;
  last: number;
  numbers: boolean;
}
interface SheetFunctions {
  /** Functions of the library that the sheet does not carry yet. */
  offered: Readonly<Ref<Operation[]>>;
  /** Documents of those that it carries. */
  documents: Readonly<Ref<CalledFunction["document"][]>>;
  /** The row of which a function is being made. */
  making: Ref<SheetRow | null>;
  /** Bring a function in, and call it at the end of a row's chain. */
  call: (row: SheetRow, chain: Chain, name: string) => Promise<void>;
}
const KEY: InjectionKey<SheetFunctions> = Symbol("functions of the sheet");

/** The functions of the sheet that is edited here; none where nothing is edited. */
export const useSheetFunctions = () => inject(KEY, null);

/** The row in which a sheet differs from another one, written anew. */
function written(document: MasterDocument, row: SheetRow, text: string): void {
  const layer = document.layers?.find((one) => one.name === row.origin?.layer);
  const sheet = layer?.sheet ?? document;
  const name = row.origin?.row ?? row.name;
  const own = sheet.rows?.find((one) => one.name === name);
  if (row.origin ? row.origin.is_input : row.is_input) sheet.inputs![name] = text;
  else if (own) own.expression = text;
}

/** Functions for the rows of a sheet below: brought in from the library, updated, taken out, or made of a row. */
export function provideSheetFunctions(
  document: Readonly<Ref<MasterDocument | null>>,
  sheet: Readonly<Ref<Sheet | null>>,
  replace: (document: MasterDocument) => Promise<void>,
) {
  const library = useFunctions();
  const carried = computed(() => sheet.value?.functions ?? []);
  const rows = computed(() => library.data.value ?? []);
  const offered = computed(() =>
    rows.value
      .filter((one) => !carried.value.some((own) => own.name === one.name))
      .flatMap((one) => (one.operation ? [one.operation] : [])),
  );
  const documents = computed(() => carried.value.map((one) => one.document));
  const making = ref<SheetRow | null>(null);

  async function call(row: SheetRow, chain: Chain, name: string): Promise<void> {
    const operation = offered.value.find((one) => one.name === name);
    if (!operation || !document.value || !sheet.value) return;
    const made = await intoSheet(name, document.value);
    const next: Chain = { start: chain.start, steps: [...chain.steps, newLink(operation, sheet.value)] };
    written(made, row, await textOfChain(next, made.functions ?? []));
    await replace(made);
  }
  /** The newest version in place of the one that the sheet carries. */
  async function update(name: string): Promise<void> {
    if (document.value) await replace(await intoSheet(name, document.value));
  }
  async function takeOut(name: string): Promise<void> {
    if (!document.value) return;
    const left = (document.value.functions ?? []).filter((one) => one.name !== name);
    await replace({ ...document.value, functions: left });
  }
  const tried = (row: SheetRow, wanted: Wanted): Promise<DrawnOut> =>
    drawOut({ document: document.value!, row: row.name, ...wanted });
  /** The sheet with a function that was made of a row, and is in the library now. */
  async function take(drawn: DrawnOut, number: string): Promise<void> {
    const functions = (drawn.document.functions ?? []).map((one) =>
      one.name === drawn.function.name ? { ...one, number } : one,
    );
    await replace({ ...drawn.document, functions });
  }
  /** The library's newest version of a function that the sheet carries in another one. */
  function newer(one: CalledFunction): FunctionRow | null {
    const found = rows.value.find((row) => row.name === one.name);
    return found?.newest && found.newest !== one.number ? found : null;
  }
  provide(KEY, { offered, documents, making, call });
  return { carried, offered, making, update, takeOut, tried, take, newer };
}
