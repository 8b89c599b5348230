/** Accounts of the studio, for administrators; and what the two links do that work without an account. */
import { useQuery } from "@tanstack/vue-query";

import { client, data } from "./client";
import type { components } from "./generated/schema";
import { useChange } from "./useChange";

const SERVER_AGAIN_MS = 5000;
export type Account = components["schemas"]["AccountOut"];
type Change = components["schemas"]["AccountChange"];

export const useAccounts = () =>
  useQuery({ queryKey: ["accounts"], queryFn: () => data(client.GET("/api/people")) });

/** Each says what went wrong, and asks anew for what it changed; null when it failed. */
export function useAccountChanges() {
  const { change, notices } = useChange("", () => [["accounts"], ["server"]]);
  const at = (name: string) => ({ params: { path: { name } } });
  return {
    notices,
    make: (name: string) => change(() => data(client.POST("/api/people", { body: { name } }))),
    set: (name: string, body: Partial<Change>) =>
      change(() => data(client.PATCH("/api/people/{name}", { ...at(name), body }))),
    reset: (name: string) => change(() => data(client.POST("/api/people/{name}/reset", at(name)))),
    signOut: (name: string) => change(() => data(client.DELETE("/api/people/{name}/sessions", at(name)))),
    retry: (pk: number) =>
      change(() => data(client.POST("/api/server/jobs/{pk}/retry", { params: { path: { pk } } }))),
  };
}

export const lookAtInvitation = (secret: string) =>
  data(client.POST("/api/invitations/look", { body: { secret } }));
export const takeInvitation = (secret: string, name = "", password = "") =>
  data(client.POST("/api/invitations/take", { body: { secret, name, password } }));
export const setNewPassword = (secret: string, password: string) =>
  data(client.POST("/api/new-password", { body: { secret, password } }));

/** How the server stands; asked again every few seconds while it is shown. */
export const useServer = () =>
  useQuery({
    queryKey: ["server"],
    queryFn: () => data(client.GET("/api/server")),
    refetchInterval: SERVER_AGAIN_MS,
  });
