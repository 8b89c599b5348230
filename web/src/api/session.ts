import { ref } from "vue";

import { client, data } from "./client";

interface Session {
  name: string | null;
  administrator: boolean;
  keeps_library: boolean;
  /** Where one can sign in beside here, in words; empty for nowhere. */
  elsewhere: string;
}

let known: Session | null = null;

/** Who is signed in; asked once and remembered. It also sets the CSRF cookie. */
export async function currentSession(): Promise<Session> {
  known ??= await data(client.GET("/api/session"));
  return known;
}

export async function signIn(name: string, password: string): Promise<void> {
  await currentSession();
  known = await data(client.POST("/api/session", { body: { name, password } }));
}

export async function signOut(): Promise<void> {
  await data(client.DELETE("/api/session"));
  known = null;
}

/** Who is signed in, for parts that show it; nobody until it is known. */
export function useWho() {
  const who = ref<Session>({ name: null, administrator: false, keeps_library: false, elsewhere: "" });
  currentSession()
    .then((session) => (who.value = session))
    .catch(() => undefined);
  return who;
}

/** Forget who was signed in: somebody else is now. */
export function forgetSession(): void {
  known = null;
}

/** Whether the server said that the session has expired: signing in again goes on where one was. */
export const expired = ref(false);
client.use({
  onResponse({ request, response }) {
    if (response.status === 401 && !request.url.endsWith("/api/session")) expired.value = true;
  },
});
