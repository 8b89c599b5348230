import type { MenuItem } from "primevue/menuitem";

import type { RoleInfo, TextureMap } from "@/api/types";

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
        { label: "Look closer (Space)", command: doing.look },
        {
          label: "Change role",
          visible: mayChange,
          items: doing.roles
            .filter((role) => role.key !== map.role)
            .map((role) => ({ label: role.label, command: () => doing.assign(role.key) })),
        },
        { label: "Take out of the set (X)", visible: mayChange, command: doing.takeOut },
        { separator: true },
      ]
    : [];
  return [
    ...ofMap,
    { label: "Open the set (Enter)", command: doing.open },
    { label: "Select (S)", command: doing.select },
    { label: "Rename (N)", visible: mayChange, command: doing.rename },
    { label: "Deliver", visible: mayChange, command: doing.deliver },
  ];
}
