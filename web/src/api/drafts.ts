/** Keeping a draft that others may write as well: masters and functions. */
import { t } from "@/texts/api";

import { changed, merged } from "./conflicts";

interface Entry<D> {
  title: string;
  revision: number;
  document: D;
}

/**
 * Write a document over the one that was seen. What others wrote in other places of it meanwhile goes along; where both
 * wrote in one place, the person decides. key: tells what is written from other things.
 */
export function keptDraft<D, E extends Entry<D>>(
  key: string,
  name: string,
  document: D,
  seen: E | null | undefined,
  send: (document: D, headers: Record<string, string>) => Promise<E>,
): Promise<E | null> {
  let wanted = document;
  return changed<E, E>({
    key,
    seen: seen ?? undefined,
    revision: (one) => one.revision,
    same: (before, now) => {
      const both = merged(before.document, wanted, now.document);
      wanted = both.value;
      return both.clashes.length === 0;
    },
    about: seen?.title ?? name,
    mine: t("yourDraftAndWhatWasWritten"),
    theirs: () => t("anotherDraft"),
    looks: (now) => ({ values: merged<unknown>(seen?.document, document, now.document).clashes }),
    send: (headers) => send(wanted, headers),
  });
}
