import { onBeforeUnmount, onMounted, reactive, ref } from "vue";

/** Whether the list of keys is shown. */
export const listOpen = ref(false);

/** One shortcut: the key as KeyboardEvent.key says it ("Shift+Z", "Ctrl+K" with what is held), what it does, doing it. */
export interface Key {
  key: string;
  /** What the list shows in place of many keys that do alike. */
  shown?: string;
  does: string;
  run: (event: KeyboardEvent) => void;
}

export interface KeyGroup {
  title: string;
  keys: Key[];
}

/** Groups of the screens now shown; the list of keys is drawn from it, so it cannot lie. */
export const keyGroups = reactive<KeyGroup[]>([]);

const TYPED_INTO =
  "input:not([type=checkbox], [type=radio]), textarea, [contenteditable], .p-select-overlay, .p-dialog, .p-popover, [role=menu]";

const OVER = ".p-popover, .p-menu-overlay, .p-dialog";

const MOVES = /^(Arrow|Home|End|Page)/;
const PRESSES = new Set([" ", "Enter"]);
/** Keys that the control under the focus wants for itself. */
function isItsOwn(target: HTMLElement | null, event: KeyboardEvent): boolean {
  const control = target?.closest?.<HTMLElement>(
    "[role=slider], [role=combobox], [role=tab], [role=separator], [role=radiogroup], [role=menuitem], input, button, a",
  );
  if (!control) return false;
  if (control.matches("button, a, [role=menuitem], [type=checkbox]")) return PRESSES.has(event.key);
  return MOVES.test(event.key) || PRESSES.has(event.key);
}

export function nameOf(event: KeyboardEvent): string {
  const letter = event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const digit = /^Digit(\d)$/.exec(event.code);
  const name = digit ? digit[1]! : letter === " " ? "Space" : letter;
  if (event.ctrlKey || event.metaKey) return `Ctrl+${name}`;
  const shifted =
    event.shiftKey &&
    (digit !== null || /^[A-Z]$/.test(letter) || letter.startsWith("Arrow") || letter === "Enter");
  return shifted ? `Shift+${name}` : name;
}

function onKey(event: KeyboardEvent): void {
  if (event.altKey || event.defaultPrevented) return;
  const held = event.ctrlKey || event.metaKey;
  if (!held && (event.target as HTMLElement | null)?.closest?.(TYPED_INTO)) return;
  if (!held && isItsOwn(event.target as HTMLElement | null, event)) return;
  // What lies over the page takes Escape for itself.
  if (event.key === "Escape" && document.querySelector(OVER)) return;
  const name = nameOf(event);
  for (let index = keyGroups.length - 1; index >= 0; index--) {
    const found = keyGroups[index]!.keys.find((key) => key.key.split(" ").includes(name));
    if (found) {
      event.preventDefault();
      found.run(event);
      return;
    }
  }
}

/** Shortcuts that hold while the calling component is shown; later groups win over earlier ones. */
export function useKeys(title: string, keys: Key[]): void {
  const group: KeyGroup = { title, keys };
  onMounted(() => {
    if (keyGroups.length === 0) window.addEventListener("keydown", onKey);
    keyGroups.push(group);
  });
  onBeforeUnmount(() => {
    const at = keyGroups.findIndex((one) => one.title === title && one.keys.length === keys.length);
    if (at >= 0) keyGroups.splice(at, 1);
    if (keyGroups.length === 0) window.removeEventListener("keydown", onKey);
  });
}
