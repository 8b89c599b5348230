import { computed } from "vue";

import { useFirstSets, useOverview, useSets } from "@/api/queries";
import { useReviews } from "@/api/team";
import { useAddress } from "@/app/useAddress";
import { t } from "@/texts/sets";

import {
  columnsOf,
  type Filter,
  filtered,
  type Grouping,
  grouped,
  offsetsOf,
  rowOf,
  sorted,
  type Sort,
  tilesByName,
} from "./matrix";

export type Height = "compact" | "normal" | "large";
/** Pixels of a row: its print and a margin. */
const HEIGHTS: Record<Height, number> = { compact: 48, normal: 100, large: 180 };
const GROUP_HEAD = 30;
const REVIEWS: Record<string, string> = {
  ready: t("reviewReady"),
  approved: t("reviewApproved"),
  sent_back: t("reviewSentBack"),
  changed: t("reviewChanged"),
  withdrawn: t("reviewWithdrawn"),
};

/** The list of sets as it is looked at: what is searched, filtered, sorted and grouped, all of it in the address. */
export function useSetList(slug: () => string) {
  const words = useAddress<string>("find", "");
  const filter = useAddress<Filter>("show", "all");
  const check = useAddress<string>("check", "");
  const since = useAddress<"" | "changed" | "undelivered">("since", "");
  const review = useAddress<string>("review", "");
  const sort = useAddress<Sort>("sort", "name");
  const group = useAddress<Grouping>("group", "none");
  const height = useAddress<Height>("rows", "normal");
  const hidden = useAddress<string>("hide", "");

  const whole = useSets(slug);
  const severity = computed(() =>
    filter.value === "error" || filter.value === "warning" ? filter.value : undefined,
  );
  const first = useFirstSets(slug, words, severity, () => Boolean(whole.data.value));
  /** The whole list, or what is there of it while it is on its way. */
  const setList = {
    ...whole,
    data: computed(() => whole.data.value ?? first.data.value),
    isPending: computed(() => whole.isPending.value && !first.data.value),
  };
  const reviews = useReviews(slug);
  const overview = useOverview(slug, () => Boolean(since.value || check.value));
  const everyColumn = computed(() => (setList.data.value ? columnsOf(setList.data.value) : []));
  const hiddenRoles = computed({
    get: () => hidden.value.split(",").filter(Boolean),
    set: (roles) => (hidden.value = roles.join(",")),
  });
  const columns = computed(() => everyColumn.value.filter((one) => !hiddenRoles.value.includes(one.key)));
  const tiles = computed(() =>
    setList.data.value ? tilesByName(setList.data.value) : new Map<string, number>(),
  );
  const every = computed(() =>
    (setList.data.value?.sets ?? []).map((set) => rowOf(set, columns.value, tiles.value.get(set.name) ?? 0)),
  );
  /** What is listed, where the address asks for some sets by what was done with them; null for all. */
  const only = computed(() => {
    const found: Set<number>[] = [];
    if (since.value) found.push(new Set(overview.data.value?.[since.value] ?? []));
    if (review.value)
      found.push(
        new Set((reviews.data.value ?? []).filter((one) => one.state === review.value).map((one) => one.set)),
      );
    if (!found.length) return null;
    return found.reduce((some, others) => new Set([...some].filter((id) => others.has(id))));
  });
  const rows = computed(() =>
    sorted(
      filtered(every.value, {
        words: words.value,
        filter: filter.value,
        check: check.value,
        only: only.value,
      }),
      sort.value,
    ),
  );
  const items = computed(() => grouped(rows.value, group.value));
  /** Rows in the order in which they are drawn: that of their groups. */
  const ordered = computed(() => items.value.flatMap((item) => (item.row ? [item.row] : [])));
  const rowHeight = computed(() => HEIGHTS[height.value]);
  const offsets = computed(() => offsetsOf(items.value, rowHeight.value, GROUP_HEAD));
  const count = (state: Filter) => every.value.filter((row) => row.state === state).length;
  const filters = computed(() => [
    { value: "all", label: t("all", { count: every.value.length }) },
    { value: "error", label: t("errors", { count: count("error") }) },
    { value: "warning", label: t("warnings", { count: count("warning") }) },
    { value: "fine", label: t("noFindings2", { count: count("fine") }) },
  ]);
  /** What else narrows the list, in words, with the way back. */
  const narrowed = computed(() => {
    const found: { label: string; clear: () => void }[] = [];
    const title = overview.data.value?.checks.find((one) => one.check === check.value)?.title;
    if (check.value)
      found.push({ label: title ?? check.value.replaceAll("_", " "), clear: () => (check.value = "") });
    if (since.value) {
      const label = since.value === "changed" ? t("changedSinceDelivery") : t("neverDelivered");
      found.push({ label, clear: () => (since.value = "") });
    }
    if (review.value)
      found.push({
        label: REVIEWS[review.value] ?? review.value,
        clear: () => (review.value = ""),
      });
    if (filter.value === "judging")
      found.push({ label: t("beingChecked2"), clear: () => (filter.value = "all") });
    return found;
  });
  /** How many sets are listed, of how many. */
  const state = computed(() => {
    const [count, all] = [ordered.value.length, every.value.length];
    if (!whole.data.value && first.data.value) return t("theFirstOf", { count, all: first.data.value.count });
    return count === all ? t("countSets", { count }) : t("ofSets", { count, all });
  });
  return {
    setList,
    isWhole: computed(() => Boolean(whole.data.value)),
    words,
    filter,
    sort,
    group,
    height,
    hiddenRoles,
    everyColumn,
    columns,
    every,
    rows: ordered,
    items,
    offsets,
    rowHeight,
    filters,
    narrowed,
    state,
  };
}
