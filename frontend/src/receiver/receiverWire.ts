// The connection with the receiver: frames and measures, opened again when it breaks off.
import { create } from "zustand";
import { AGAIN } from "../api/feedSocket";
import { readFrame, senderOf, type Described } from "../feed/feedModel";
import { endLive, showLive, useLive, withDriven } from "../viewer/live";
import type { Received } from "./receiverModel";

export const useReceived = create<{ reached: boolean; received: Received | null }>(() => ({
  reached: false,
  received: null,
}));

const described = new Map<number, Described>();
let channels = 0;

export function listen() {
  const socket = new WebSocket(`ws://${location.host}/frames`);
  socket.binaryType = "arraybuffer";
  socket.onopen = () => useReceived.setState({ reached: true });
  socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
    if (typeof event.data !== "string") socket.send(String(senderOf(event.data)));
    taken(event.data);
  };
  socket.onclose = () => {
    useReceived.setState({ reached: false, received: null });
    endLive();
    window.setTimeout(listen, AGAIN);
  };
}

function taken(data: string | ArrayBuffer) {
  if (typeof data !== "string") return frame(data);
  const said = JSON.parse(data) as { type: string } & Record<string, unknown>;
  if (said.type === "hello") channels = Number(said.channels);
  else if (said.type === "state") useReceived.setState({ received: said as unknown as Received });
  else if (said.type === "character") described.set(Number(said.sender), said as unknown as Described);
}

function frame(raw: ArrayBuffer) {
  const about = described.get(senderOf(raw));
  const found = about && readFrame(raw, channels, about);
  if (!about || !found) return;
  const senders = useReceived.getState().received?.senders ?? [];
  const called = senders.find((s) => s.sender === found.sender)?.called ?? "";
  const { weights, motion, shifts, heard } = found;
  const one = { ...about, of: String(found.sender), called, weights, motion, shifts, heard };
  const kept = [...new Set([...senders.map((s) => String(s.sender)), one.of])];
  showLive({ on: true, calms: false, driven: withDriven(useLive.getState().driven, one, kept) });
}
