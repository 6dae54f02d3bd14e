// Where desks are.
import { matchPath } from "react-router";

/** A desk's address with the take that is open. Which one is, the address says: a click of a moment ago may be in it while
 * the page still draws the take before. */
export function deskAddress(production: string, desk: string): string {
  const take = matchPath("/:production/:desk/:take", window.location.pathname)?.params.take;
  return `/${production}/${desk}${take ? `/${take}` : ""}`;
}
