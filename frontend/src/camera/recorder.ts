// Recording from a camera and microphone: one small state machine, apart from how it looks.
import { create } from "zustand";

export type Phase = "off" | "opening" | "ready" | "counting" | "recording" | "kept";
type State = {
  phase: Phase;
  cameras: { id: string; name: string }[];
  microphones: { id: string; name: string }[];
  camera: string;
  microphone: string;
  stream: MediaStream | null;
  count: number;
  clip: Blob | null;
  seconds: number;
  problem: string;
};
const NONE: State = {
  phase: "off",
  cameras: [],
  microphones: [],
  camera: "",
  microphone: "",
  stream: null,
  count: 0,
  clip: null,
  seconds: 0,
  problem: "",
};

export const useRecorder = create<State>(() => NONE);
const { getState: now, setState: set } = useRecorder;
export const COUNT_IN = 3;
const TYPES = ["video/webm;codecs=vp9,opus", "video/webm;codecs=vp8,opus", "video/webm", "video/mp4"];

let recorder: MediaRecorder | null = null;
let timer = 0;
let opens = 0;

/** What to say when a camera cannot be had. */
export function reason(error: unknown): string {
  const name = error instanceof DOMException ? error.name : "";
  if (name === "NotAllowedError")
    return "The browser was not allowed to use the camera. Allow it in the address line and try again.";
  if (name === "NotFoundError") return "No camera or microphone is there. Plug one in and try again.";
  if (name === "NotReadableError") return "The camera is in use by another program. Close that and try again.";
  return `The camera cannot be used: ${error instanceof Error ? error.message : String(error)}`;
}

function stopTracks() {
  now()
    .stream?.getTracks()
    .forEach((track) => track.stop());
}

/** Opens the devices that are chosen, or the ones that the browser prefers. */
export async function openCamera(camera = now().camera, microphone = now().microphone) {
  stopTracks();
  const mine = ++opens;
  set({ phase: "opening", problem: "", clip: null, stream: null });
  try {
    const stream = await navigator.mediaDevices.getUserMedia({
      video: {
        ...(camera ? { deviceId: { exact: camera } } : {}),
        width: { ideal: 1280 },
        height: { ideal: 720 },
        frameRate: { ideal: 60 },
      },
      audio: {
        ...(microphone ? { deviceId: { exact: microphone } } : {}),
        echoCancellation: false,
        noiseSuppression: false,
        autoGainControl: false,
      },
    });
    const devices = await navigator.mediaDevices.enumerateDevices();
    if (mine !== opens) {
      // Closed, or opened with another device, while the browser was asking: this camera must not stay on.
      stream.getTracks().forEach((track) => track.stop());
      return;
    }
    const named = (kind: MediaDeviceKind) =>
      devices
        .filter((d) => d.kind === kind)
        .map((d, i) => ({
          id: d.deviceId,
          name: d.label || `${kind === "videoinput" ? "camera" : "microphone"} ${i + 1}`,
        }));
    set({
      phase: "ready",
      stream,
      cameras: named("videoinput"),
      microphones: named("audioinput"),
      camera: stream.getVideoTracks()[0]?.getSettings().deviceId ?? "",
      microphone: stream.getAudioTracks()[0]?.getSettings().deviceId ?? "",
    });
  } catch (error) {
    if (mine === opens) set({ phase: "off", problem: reason(error) });
  }
}

/** Counts in, then records, so that the start is not cut off. */
export function countIn() {
  if (now().phase !== "ready") return;
  set({ phase: "counting", count: COUNT_IN });
  timer = window.setInterval(() => {
    const left = now().count - 1;
    set({ count: left });
    if (left > 0) return;
    window.clearInterval(timer);
    begin();
  }, 1000);
}

function begin() {
  const { stream } = now();
  if (!stream) return;
  const pieces: Blob[] = [];
  const began = performance.now();
  const type = TYPES.find((t) => MediaRecorder.isTypeSupported(t));
  recorder = new MediaRecorder(stream, { ...(type ? { mimeType: type } : {}), videoBitsPerSecond: 12_000_000 });
  recorder.ondataavailable = (e) => {
    if (e.data.size) pieces.push(e.data);
  };
  // However it ends (stopped here, the camera unplugged), what was recorded is kept.
  recorder.onstop = () => {
    window.clearInterval(timer);
    set({
      phase: "kept",
      clip: new Blob(pieces, { type: recorder?.mimeType ?? "video/webm" }),
      seconds: (performance.now() - began) / 1000,
    });
  };
  recorder.start(1000);
  set({ phase: "recording", seconds: 0 });
  timer = window.setInterval(() => set({ seconds: (performance.now() - began) / 1000 }), 200);
}

export function stop() {
  if (now().phase === "counting") {
    window.clearInterval(timer);
    set({ phase: "ready" });
  } else if (recorder?.state === "recording") recorder.stop();
}

/** Back to the live picture, the clip gone. */
export function throwAway() {
  set({ clip: null, phase: now().stream?.active ? "ready" : "off" });
}

export function closeCamera() {
  opens++;
  window.clearInterval(timer);
  if (recorder?.state === "recording") recorder.stop();
  recorder = null;
  stopTracks();
  set(NONE);
}
