import { expect, it } from "vitest";
import type { CardRow, TakeRow } from "../../api/client";
import { cardFor, lensWords, spansBelow, turnFor } from "./footageJobs";

const card = (name: string, performer: string, ready = true) => ({ name, performer, ready }) as CardRow;
const clip = (slate: string, performer: string, notes = "") => ({ slate, performer, notes }) as TakeRow;

it("the newest ready card of the performer is taken", () => {
  const cards = [card("first", "Mara"), card("second", "Mara"), card("other", "Ivo"), card("not yet", "Mara", false)];
  expect(cardFor(cards, "Mara")?.name).toBe("second");
  expect(cardFor(cards, "Nobody")).toBeUndefined();
});

it("a head turn is known by its slate or its notes, of the same performer", () => {
  const clips = [clip("Turn", "Ivo"), clip("7B turn", "Mara"), clip("8", "Mara"), clip("returned", "Mara")];
  expect(turnFor(clips, "Mara")?.slate).toBe("7B turn");
  expect(turnFor([clip("8", "Mara", "neutral, turning the head")], "Mara")?.slate).toBe("8");
  expect(turnFor([clip("8", "Mara")], "Mara")).toBeUndefined();
});

it("spans below a limit have their first and last frame", () => {
  expect(spansBelow(Float32Array.from([0.1, 0.9, 0.2, 0.3, 0.9]), 0.5)).toEqual([
    [0, 0],
    [2, 3],
  ]);
  expect(spansBelow(Float32Array.from([0.9, 0.4]), 0.5)).toEqual([[1, 1]]);
  expect(spansBelow(new Float32Array(0), 0.5)).toEqual([]);
});

it("a lens that was measured is given with its spread, another with where it is from", () => {
  expect(lensWords({ how: "measured", fov: 38.6, low: 35.7, high: 41.9 })).toBe(
    "39° top to bottom, measured (36 to 42)",
  );
  expect(lensWords({ how: "assumed", fov: 40, low: 40, high: 40 })).toBe("40° top to bottom, assumed");
});
