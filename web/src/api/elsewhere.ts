/** Signing in at a provider of OpenID Connect: there, and back with what it gave the browser. */
import { client, data } from "./client";
import { currentSession, forgetSession } from "./session";

const NEXT = "fair-texel-next";

/** Go to the provider; the browser comes back to the sign-in, and from there to where one was going. */
export async function goElsewhere(next: string): Promise<void> {
  await currentSession();
  const { address } = await data(client.POST("/api/session/elsewhere"));
  sessionStorage.setItem(NEXT, next);
  window.location.assign(address);
}

/** Sign in with a code; where one was going. */
export async function comeBack(code: string, state: string): Promise<string> {
  await currentSession();
  await data(client.POST("/api/session/elsewhere/back", { body: { code, state } }));
  forgetSession();
  const next = sessionStorage.getItem(NEXT) ?? "/";
  sessionStorage.removeItem(NEXT);
  return next;
}
