import type { MenuItem } from "primevue/menuitem";

import type { RoleInfo, TextureMap } from "@/api/types";
import { t } from "@/texts/sets";

interface Doing {
  map: TextureMap | null;
  mayChange: boolean;
  roles: RoleInfo[];
  open: () => void;
  look: () => void;
  select: () => void;
  rename: () => void;
  deliver: () => void;
  assign: (role: string) => void;
  takeOut: () => void;
}

/** What a set, and the map under the pointer, offer in their context menu. */
export function menuOf(doing: Doing): MenuItem[] {
  const { map, mayChange } = doing;
  const ofMap: MenuItem[] = map
    ? [
        { label: t("lookCloserSpace"), command: doing.look },
        {
          label: t("changeRole"),
          visible: mayChange,
          items: doing.roles
            .filter((role) => role.key !== map.role)
            .map((role) => ({ label: role.label, command: () => doing.assign(role.key) })),
        },
        { label: t("takeOutOfTheSetX"), visible: mayChange, command: doing.takeOut },
        { separator: true },
      ]
    : [];
  return [
    ...ofMap,
    { label: t("openTheSetEnter"), command: doing.open },
    { label: t("selectS"), command: doing.select },
    { label: t("renameN"), visible: mayChange, command: doing.rename },
    { label: t("deliver"), visible: mayChange, command: doing.deliver },
  ];
}
