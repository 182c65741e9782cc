/**
 * Whose page this is. The server says in a cookie whose session it last confirmed; it lives as long as the session. A
 * page belongs to one person from then on: what it kept, and what waits in it, is nobody else's.
 */
const COOKIE = /(?:^|; )percorso_person=([^;]+)/;
const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("percorso");

/** The person whose session was last confirmed in this browser; "" for nobody. */
export const lastConfirmed = (): string => decodeURIComponent(COOKIE.exec(document.cookie)?.[1] ?? "");

let owner = lastConfirmed();
let isLeaving = false;

/** The person this page belongs to; "" before anybody signed in. */
export const pageOwner = (): string => owner;

/** Whether this page may keep anything: not once somebody else signed in, or nobody is. */
export const mayKeep = (): boolean => !isLeaving && owner !== "" && owner === lastConfirmed();

/** What a request says of who it is for. */
export const speaksFor = (person = owner): Record<string, string> =>
  person === "" ? {} : { "X-Percorso-Person": encodeURIComponent(person) };

/** The server says whose session it is. A page that was another's starts anew, also where nobody's is left. */
export function confirmed(person: string | null) {
  if ((person ?? "") === owner) return;
  if (owner !== "") return leave(person === null ? window.location.href : "/");
  owner = person ?? "";
  tellOthers();
}

/** Everything that is shown is given up, and nothing is written any more. */
export function leave(to = "/") {
  if (isLeaving) return;
  isLeaving = true;
  window.location.assign(to);
}

/** Let the other tabs look whose they are. */
export const tellOthers = () => channel?.postMessage("look");

/**
 * Look whose page it is when another tab says so, and when it is looked at again; `stays` where it is still the same. Where
 * nobody is signed in any more it keeps nothing from then on, and what is typed in it waits.
 */
export function watchPerson(stays: () => void) {
  const isAnothers = () => owner !== "" && lastConfirmed() !== "" && lastConfirmed() !== owner;
  if (channel)
    channel.onmessage = () => {
      if (isAnothers()) leave();
      else if (lastConfirmed() === owner) stays();
    };
  document.addEventListener("visibilitychange", () => {
    if (!document.hidden && isAnothers()) leave();
  });
}
