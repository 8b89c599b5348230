import type { useSetChanges } from "@/api/setChanges";
import { type Derivation, type RecipeStep, stepOf } from "@/api/recipes";
import type { Finding, SetDetail, TextureMap } from "@/api/types";

interface Around {
  set: () => SetDetail | null;
  map: () => TextureMap | null;
  changes: ReturnType<typeof useSetChanges>;
  pick: (map: number) => void;
  done: () => void;
  /** Shows a step on the picture, to be applied or discarded. */
  tryStep: (map: TextureMap, step: RecipeStep, finding: Finding) => void;
}

/** What can be done about findings, and maps made from maps. */
export function useRemedies({ set, map, changes, pick, done, tryStep }: Around) {
  /** A remedy that is a step on the map is tried on the picture first; what is done to the set is done, and can be undone. */
  function remedy(finding: Finding): void {
    const { remedy: cure } = finding;
    const mended = set()?.maps.find((one) => one.id === finding.map);
    if (!cure) return;
    done();
    if (cure.action === "derive") {
      const source = set()?.maps.find((one) => one.role === cure.source && one.in_use);
      if (source) makeFrom(source.id, String(cure.role), cure.recipe as RecipeStep[]);
    } else if (!mended) {
      return;
    } else if (cure.action === "take_out") {
      void changes.place.mutate({ map: mended.id, set: null, role: "" });
    } else if (cure.action === "assign") {
      void changes.place.mutate({ map: mended.id, set: set()!.id, role: String(cure.role) });
    } else {
      pick(mended.id);
      tryStep(mended, stepOf(cure), finding);
    }
  }

  function makeFrom(source: number, role: string, recipe: RecipeStep[]): void {
    void changes.derive.mutate(
      { map: source, role, recipe },
      { onSuccess: (made) => pick((made as { id: number }).id) },
    );
  }

  function derive(derivation: Derivation): void {
    const from = map();
    if (from) makeFrom(from.id, derivation.role, derivation.recipe);
  }

  return { remedy, derive };
}
