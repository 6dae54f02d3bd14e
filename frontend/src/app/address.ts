// What the address says right now.
import { matchPath } from "react-router";

/** The take that the address names: a click of a moment ago may be in the address while the page still draws the take before. */
export const takeInAddress = (): string | undefined => matchPath("/:production/:desk/:take", window.location.pathname)?.params.take;
