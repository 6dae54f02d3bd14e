// The deck's colours, read from the theme.
import type { Palette } from "./track";

let cached: { palette: Palette; theme: string } | null = null;

export function deckPalette(): Palette {
  const theme = document.documentElement.className;
  if (cached?.theme === theme) return cached.palette;
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(`--chakra-colors-${name}`).trim();
  const palette: Palette = {
    ground: read("bg-deck"),
    lane: read("bg-lane"),
    line: read("grid"),
    faint: read("wave"),
    text: read("ink"),
    dim: read("dim"),
    accent: read("accent"),
    paper: read("paper"),
  };
  // Styles may not be in place yet when the first frame is drawn.
  if (palette.ground) cached = { palette, theme };
  return palette;
}
