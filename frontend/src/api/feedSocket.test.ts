import { expect, it, vi } from "vitest";
import { sendOn } from "./feedSocket";

const STATES = { CONNECTING: 0, OPEN: 1, CLOSING: 2, CLOSED: 3 };
const socketThatIs = (state: keyof typeof STATES) =>
  ({ ...STATES, readyState: STATES[state], send: vi.fn() }) as unknown as WebSocket;

it("what is sent goes out on an open socket", () => {
  const open = socketThatIs("OPEN");
  expect(sendOn(open, "seen")).toBe(true);
  expect(open.send).toHaveBeenCalledExactlyOnceWith("seen");
});

it.each(["CONNECTING", "CLOSING", "CLOSED"] as const)("nothing is sent to a socket that is %s", (state) => {
  const socket = socketThatIs(state);
  expect(sendOn(socket, "seen")).toBe(false);
  expect(socket.send).not.toHaveBeenCalled();
});

it("nothing is sent where there is no socket", () => {
  expect(sendOn(null, "seen")).toBe(false);
});
