// Words of a role where they are heard in the shot, and what dragging them changes.
import { describe, expect, it } from "vitest";
import { openedShot, placement, shotState } from "../../workspace/fakeShots";
import { heardOf, takesOf, wordBlocks, wordDragged, wordsOf, type WordEntry, phoneWeighed } from "./wordModel";

const entry = (word: string, first: number, last: number): WordEntry => ({
  word,
  first,
  last,
  phones: [],
  lips: 1,
  jaw: 1,
  loud: 1,
});

function spoken(more: Parameters<typeof placement>[0] = {}) {
  const opened = openedShot();
  opened.clips[0]!.sound = "S";
  opened.shot.body.roles.odile!.placements = { one: placement({ start: "1", first: "0", last: "2", ...more }) };
  opened.words = [
    {
      id: "W",
      production: "p",
      version: 3,
      kind: "words",
      body: {
        schema: 1,
        archived: false,
        sound: "S",
        text: "lamp low",
        language: "en",
        words: { b: entry("low", 1.2, 1.6), a: entry("lamp", 0.5, 0.9), c: entry("late", 2.5, 2.8) },
      },
    },
  ];
  return shotState({ opened });
}

describe("words of a role", () => {
  it("lie where their clip lies, in order, without those that are cut away", () => {
    const said = wordsOf(spoken(), "odile");
    expect(said.map((w) => [w.entry.word, w.from, w.to])).toEqual([
      ["lamp", 90, 114],
      ["low", 132, 156],
    ]);
  });
  it("follow the speed of their clip and come again with each pass", () => {
    const said = wordsOf(spoken({ speed: "1/2", repeats: "2" }), "odile");
    expect(said.map((w) => [w.entry.word, w.from])).toEqual([
      ["lamp", 120],
      ["low", 204],
      ["lamp", 360],
      ["low", 444],
    ]);
    expect(new Set(said.map((w) => w.key)).size).toBe(4);
  });
  it("come as much earlier as the sound of the take is late", () => {
    const shot = spoken();
    shot.opened.clips[0]!.soundOffset = -0.25;
    expect(wordsOf(shot, "odile")[0]!.from).toBe(75);
  });
  it("are none of a clip that is mute, or of one without its sound", () => {
    expect(heardOf(spoken({ mute: true }), "odile")).toEqual([]);
    expect(heardOf(spoken({ sound: false }), "odile")).toEqual([]);
    expect(wordsOf(spoken(), "brindle")).toEqual([]);
  });
  it("stay with the role from which their sound was let go", () => {
    const shot = spoken({ sound: false });
    shot.opened.shot.body.sounds = {
      s: {
        source: "S",
        name: "",
        start: "2",
        first: "0",
        last: "2",
        speed: "1",
        gain: 1,
        fadeIn: "0",
        fadeOut: "0",
        mute: false,
        role: "odile",
      },
    };
    expect(wordsOf(shot, "odile")[0]!.from).toBe(150);
  });
  it("are those of takes that are named once each", () => {
    expect(takesOf(spoken(), "odile")).toEqual([{ take: "A", slate: "4A / 1", sound: "S" }]);
  });
  it("say in the deck what they are, and when their mouth is changed", () => {
    const said = wordsOf(spoken(), "odile");
    said[1]!.entry = { ...said[1]!.entry, lips: 0.4 };
    expect(wordBlocks(said, said[0]!.key).map((b) => [b.label, b.chosen, b.note])).toEqual([
      ["lamp", true, ""],
      ["low", false, "lips 0.4 jaw 1"],
    ]);
  });
});

describe("the phones of a word", () => {
  const said = () => {
    const [word] = wordsOf(spoken(), "odile");
    return {
      ...word!,
      entry: {
        ...word!.entry,
        phones: [
          ["L", 0.25],
          ["AE", 1, 0.5, 1],
        ] as WordEntry["phones"],
      },
    };
  };
  it("are marked in the word lane where one ends and the next begins", () => {
    const one = said();
    expect(wordBlocks([one], null)[0]!.passes).toEqual([one.from + 0.25 * (one.to - one.from)]);
  });
  it("get weights of their own, and lose them where they count whole", () => {
    expect(phoneWeighed(said(), 0, "jaw", 0.4)[0]).toEqual({
      path: "words/a/phones",
      value: [
        ["L", 0.25, 1, 0.4],
        ["AE", 1, 0.5, 1],
      ],
    });
    expect(phoneWeighed(said(), 1, "lips", 1)[0]!.value).toEqual([
      ["L", 0.25],
      ["AE", 1],
    ]);
  });
});

describe("dragging a word", () => {
  const [lamp] = wordsOf(spoken({ speed: "2" }), "odile");
  it("moves it in the seconds of its sound", () => {
    expect(wordDragged(lamp!, "move", 6)).toEqual([
      { path: "words/a/first", value: 0.7 },
      { path: "words/a/last", value: 1.1 },
    ]);
  });
  it("moves one edge, and never past the other", () => {
    expect(wordDragged(lamp!, "end", -3)).toEqual([{ path: "words/a/last", value: 0.8 }]);
    expect(wordDragged(lamp!, "end", -300)).toEqual([{ path: "words/a/last", value: 0.52 }]);
    expect(wordDragged(lamp!, "begin", 300)).toEqual([{ path: "words/a/first", value: 0.88 }]);
  });
});
