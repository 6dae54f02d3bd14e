// Where desks are.
import { matchPath } from "react-router";

/** The take and the shot that were open last: the Layer desk shows shots, all others takes. */
const last: { production: string; take?: string; shot?: string } = { production: "" };
const kindAt = (desk: string) => (desk === "layer" ? "shot" : "take");

/** A desk's address with what is open there. Which take or shot is, the address says: a click of a moment ago may be in it while
 * the page still draws the one before. */
export function deskAddress(production: string, desk: string): string {
  const here = matchPath("/:production/:desk/:open?", window.location.pathname)?.params;
  if (last.production !== production) Object.assign(last, { production, take: undefined, shot: undefined });
  if (here?.production === production) last[kindAt(here.desk!)] = here.open;
  const open = last[kindAt(desk)];
  return `/${production}/${desk}${open ? `/${open}` : ""}`;
}
