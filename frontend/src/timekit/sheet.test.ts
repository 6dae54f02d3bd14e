import { afterEach, describe, expect, it, vi } from "vitest";
import { Sheet } from "./sheet";

const canvas = (width = 100, height = 50) => {
  const drawn: unknown[] = [];
  const context = {
    drawImage: (of: unknown) => void drawn.push(of),
    save: () => undefined,
    restore: () => undefined,
    setTransform: () => undefined,
    globalAlpha: 1,
  };
  return { width, height, drawn, context, getContext: () => context };
};
type Canvas = ReturnType<typeof canvas>;
const lay = (sheet: Sheet, onto: Canvas) => sheet.lay(onto as never, onto.context as never);

afterEach(() => vi.unstubAllGlobals());

describe("what a deck showed last", () => {
  it("is shown again while nothing but the playhead moves", () => {
    const kept = canvas(0, 0);
    vi.stubGlobal("document", { createElement: () => kept });
    const [sheet, deck] = [new Sheet(), canvas()];
    expect(lay(sheet, deck)).toBe(false);
    sheet.keep(deck as never);
    expect(kept.drawn).toEqual([deck]);
    expect([kept.width, kept.height]).toEqual([100, 50]);
    expect(lay(sheet, deck)).toBe(true);
    expect(deck.drawn).toEqual([kept]);
  });
  it("is not, once anything else changed or the deck has another size", () => {
    vi.stubGlobal("document", { createElement: () => canvas(0, 0) });
    const sheet = new Sheet();
    sheet.keep(canvas() as never);
    expect(lay(sheet, canvas(101, 50))).toBe(false);
    sheet.spoil();
    expect(lay(sheet, canvas())).toBe(false);
  });
});
