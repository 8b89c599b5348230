/** What the command field offers: places and things to go to, actions to run. */
export interface Command {
  kind: string;
  label: string;
  detail?: string;
  key?: string;
  /** Found by the server for the words typed, the best first, perhaps in spite of a slip of the pen. */
  found?: boolean;
  run: () => void;
}

const MAX_SHOWN = 40;

const BETWEEN_WORDS = new Set([..." \t/_.-"]);
/** Whether a text stands at the beginning of a word of the label. */
function beginsWord(label: string, text: string): boolean {
  for (let at = label.indexOf(text); at >= 0; at = label.indexOf(text, at + 1))
    if (at === 0 || BETWEEN_WORDS.has(label[at - 1]!)) return true;
  return false;
}

/** How well a command fits the words typed; 0: not at all. A word at the beginning of the label fits best. */
export function fitOf(command: Command, words: string[]): number {
  const label = command.label.toLowerCase();
  const text = `${label} ${command.detail ?? ""} ${command.kind}`.toLowerCase();
  let fit = 1;
  for (const word of words) {
    if (!text.includes(word)) return 0;
    if (label.startsWith(word)) fit += 3;
    else if (beginsWord(label, word)) fit += 2;
    else if (label.includes(word)) fit += 1;
  }
  return fit;
}

/** The commands that fit what was typed, the best first; equal ones in their own order. */
export function ranked(all: readonly Command[], typed: string): Command[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return all.slice(0, MAX_SHOWN);
  return all
    .map((command) => ({ command, fit: fitOf(command, words) || (command.found ? 0.5 : 0) }))
    .filter((one) => one.fit > 0)
    .sort((a, b) => b.fit - a.fit)
    .slice(0, MAX_SHOWN)
    .map((one) => one.command);
}
