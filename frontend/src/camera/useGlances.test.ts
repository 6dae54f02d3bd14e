import { expect, it } from "vitest";
import { numbered } from "./useGlances";

it("a picture is sent with its number before its bytes", () => {
  const sent = numbered(258, Uint8Array.from([255, 216, 255]).buffer);
  expect([...sent]).toEqual([2, 1, 0, 0, 255, 216, 255]);
});
