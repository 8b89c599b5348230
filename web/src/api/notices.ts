/** What the page tells about changes: that one was made, with the way back; that one failed, and why. */
import { useToast } from "primevue/usetoast";

const CHANGE_MS = 6000;
const FAILURE_MS = 9000;
/** Only the last change is offered to be undone: undo takes back one's last change, whatever it was. */
const CHANGES = "changes";

export interface Notice {
  summary: string;
  detail?: string;
  undo?: () => void;
}

export function useNotices() {
  const toast = useToast();
  return {
    /** undo: takes the change back; where it is given the message carries the button. */
    changed(summary: string, undo?: () => void): void {
      toast.removeGroup(CHANGES);
      toast.add({ group: CHANGES, severity: "secondary", summary, life: CHANGE_MS, undo } as never);
    },
    /** Done, but not all of it. */
    partly(summary: string, detail: string): void {
      toast.add({ severity: "warn", summary, detail, life: 2 * CHANGE_MS });
    },
    failed(error: unknown): void {
      const summary = error instanceof Error ? error.message : String(error);
      toast.add({ severity: "error", summary, life: FAILURE_MS });
    },
  };
}
