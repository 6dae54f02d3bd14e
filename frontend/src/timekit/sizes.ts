// How tall the animator made the lanes of a deck: kept in the browser, by the deck's name.
import { USUAL, type Sizes } from "./layout";

const keyOf = (deck: string) => `dynaface.lanes.${deck}`;

/** The sizes that were kept last; the usual ones where there are none, or none that can be read. */
export function keptSizes(deck: string): Sizes {
  try {
    const kept = JSON.parse(localStorage.getItem(keyOf(deck)) ?? "{}") as Partial<Sizes>;
    const lanes = typeof kept.lanes === "number" && Number.isFinite(kept.lanes) ? kept.lanes : null;
    const tall = Object.entries(kept.tall ?? {}).filter(([, v]) => typeof v === "number" && Number.isFinite(v));
    return { lanes, tall: Object.fromEntries(tall) };
  } catch {
    return USUAL;
  }
}

export function keepSizes(deck: string, sizes: Sizes) {
  try {
    localStorage.setItem(keyOf(deck), JSON.stringify(sizes));
  } catch {
    // Without a store they are kept for as long as the page is open.
  }
}
