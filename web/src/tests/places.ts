/** Destinations and transfers for tests. */
import type { Destination, Transfer } from "@/api/destinations";

export const aTransfer = (more: Partial<Transfer> = {}): Transfer => ({
  id: 5,
  number: 7,
  created: "2026-11-27T10:00:00Z",
  by: "ada",
  state: "done",
  job: 9,
  message: "",
  written: 4,
  removed: 0,
  untouched: 20,
  kept: [],
  drift: 0,
  ...more,
});
export const aPlace = (more: Partial<Destination> = {}): Destination => ({
  id: 2,
  revision: 1,
  name: "Art",
  kind: "folder",
  place: "art",
  path: "/srv/engine/art",
  target: "orm-y-minus",
  title: "Packs",
  holds: 6,
  newest: 7,
  problem: null,
  last: null,
  ...more,
});
