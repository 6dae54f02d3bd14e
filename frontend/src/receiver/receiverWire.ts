// The connection with the receiver: frames and measures, opened again when it breaks off.
import { create } from "zustand";
import { AGAIN, sendOn } from "../api/feedSocket";
import { senderOf, type Described } from "../feed/feedModel";
import { Frames } from "../feed/frames";
import { endLive } from "../viewer/live";
import type { Received } from "./receiverModel";

export const useReceived = create<{ reached: boolean; received: Received | null }>(() => ({
  reached: false,
  received: null,
}));

const frames = new Frames();
let channels = 0;

export function listen() {
  const socket = new WebSocket(`ws://${location.host}/frames`);
  socket.binaryType = "arraybuffer";
  socket.onopen = () => useReceived.setState({ reached: true });
  socket.onmessage = (event: MessageEvent<string | ArrayBuffer>) => {
    if (typeof event.data !== "string") sendOn(socket, String(senderOf(event.data)));
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
  else if (said.type === "character") frames.describe(said as unknown as Described);
}

function frame(raw: ArrayBuffer) {
  const senders = useReceived.getState().received?.senders ?? [];
  const shown = [...new Set([...senders.map((s) => s.sender), senderOf(raw)])];
  frames.show(raw, channels, shown, (sender) => senders.find((s) => s.sender === sender)?.called ?? "");
}
