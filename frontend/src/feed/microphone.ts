// The page's microphone, to the recording of a feed: pieces as they come, with how late they are.
import { create } from "zustand";
import worklet from "./microphoneWorklet.js?url&no-inline";

type State = { on: boolean; problem: string; stream: MediaStream | null };
export const useMicrophone = create<State>(() => ({ on: false, problem: "", stream: null }));

const UNKNOWN = 0.02; // seconds of latency where the browser does not say it
let context: AudioContext | null = null;

const HEAD = 12;

/** A piece as it is sent: rate, latency, channels, 16 bit samples. Pure. */
export function packedPiece(piece: Float32Array, rate: number, latency: number, channels: number): ArrayBuffer {
  const raw = new ArrayBuffer(HEAD + 2 * piece.length);
  const view = new DataView(raw);
  view.setUint32(0, rate, true);
  view.setFloat32(4, latency, true);
  view.setUint32(8, channels, true);
  piece.forEach((sample, i) =>
    view.setInt16(HEAD + 2 * i, Math.round(Math.min(Math.max(sample, -1), 1) * 32767), true),
  );
  return raw;
}

/** Begins to send what is heard; says why not. */
export async function openMicrophone(send: (piece: ArrayBuffer) => void) {
  closeMicrophone();
  useMicrophone.setState({ on: true, problem: "" });
  try {
    const stream = await navigator.mediaDevices.getUserMedia({
      // A second channel may carry timecode.
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: { ideal: 2 } },
    });
    const made = new AudioContext();
    await made.audioWorklet.addModule(worklet);
    if (!useMicrophone.getState().on) {
      stream.getTracks().forEach((track) => track.stop());
      return void made.close();
    }
    context = made;
    const settings = stream.getAudioTracks()[0]?.getSettings() as { latency?: number } | undefined;
    const latency = (settings?.latency ?? UNKNOWN) + made.baseLatency;
    const pieces = new AudioWorkletNode(made, "pieces", {
      numberOfOutputs: 0,
      channelCount: 2,
      channelCountMode: "clamped-max",
    });
    pieces.port.onmessage = ({ data }: MessageEvent<{ piece: Float32Array; channels: number }>) =>
      send(packedPiece(data.piece, Math.round(made.sampleRate), latency, data.channels));
    made.createMediaStreamSource(stream).connect(pieces);
    useMicrophone.setState({ stream });
  } catch (error) {
    useMicrophone.setState({
      on: false,
      stream: null,
      problem: `The microphone cannot be used: ${error instanceof Error ? error.message : String(error)}`,
    });
  }
}

export function closeMicrophone() {
  useMicrophone
    .getState()
    .stream?.getTracks()
    .forEach((track) => track.stop());
  void context?.close();
  context = null;
  useMicrophone.setState({ on: false, stream: null, problem: "" });
}
