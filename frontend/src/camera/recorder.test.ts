import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { closeCamera, countIn, COUNT_IN, openCamera, reason, stop, throwAway, useRecorder } from "./recorder";

class FakeTrack {
  stopped = false;
  constructor(private readonly id: string) {}
  stop() {
    this.stopped = true;
  }
  getSettings = () => ({ deviceId: this.id });
}

class FakeStream {
  active = true;
  video = [new FakeTrack("front")];
  audio = [new FakeTrack("desk")];
  getTracks = () => [...this.video, ...this.audio];
  getVideoTracks = () => this.video;
  getAudioTracks = () => this.audio;
}

class FakeRecorder {
  static made: FakeRecorder[] = [];
  static isTypeSupported = (type: string) => type.includes("vp8");
  state = "inactive";
  mimeType: string;
  ondataavailable!: (event: { data: Blob }) => void;
  onstop!: () => void;
  constructor(
    _stream: FakeStream,
    readonly options: { mimeType?: string },
  ) {
    this.mimeType = options.mimeType ?? "video/webm";
    FakeRecorder.made.push(this);
  }
  start() {
    this.state = "recording";
  }
  /** A second of recording. */
  give(text: string) {
    this.ondataavailable({ data: new Blob([text]) });
  }
  stop() {
    this.state = "inactive";
    this.onstop();
  }
}

let stream: FakeStream;
const asked = vi.fn();
const devices = [
  { kind: "videoinput", deviceId: "front", label: "Front" },
  { kind: "videoinput", deviceId: "mount", label: "" },
  { kind: "audioinput", deviceId: "desk", label: "" },
];
const now = () => useRecorder.getState();

beforeEach(() => {
  vi.useFakeTimers();
  FakeRecorder.made = [];
  stream = new FakeStream();
  asked.mockReset().mockImplementation(() => Promise.resolve(stream));
  vi.stubGlobal("navigator", {
    mediaDevices: { getUserMedia: asked, enumerateDevices: () => Promise.resolve(devices) },
  });
  vi.stubGlobal("MediaRecorder", FakeRecorder);
  vi.stubGlobal("window", globalThis);
});
afterEach(() => {
  closeCamera();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe("opening", () => {
  it("lists devices, naming those without a name, and says which are in use", async () => {
    await openCamera();
    expect(now()).toMatchObject({
      phase: "ready",
      camera: "front",
      microphone: "desk",
      cameras: [
        { id: "front", name: "Front" },
        { id: "mount", name: "camera 2" },
      ],
      microphones: [{ id: "desk", name: "microphone 1" }],
    });
  });
  it("asks for what was chosen, and for sound as it is", async () => {
    await openCamera("mount", "desk");
    const [wanted] = asked.mock.calls[0] as [{ video: object; audio: object }];
    expect(wanted.video).toMatchObject({ deviceId: { exact: "mount" } });
    expect(wanted.audio).toMatchObject({
      deviceId: { exact: "desk" },
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
    });
  });
  it("leaves no camera on that was closed while it opened", async () => {
    let give!: (stream: FakeStream) => void;
    asked.mockReturnValueOnce(new Promise((done) => (give = done)));
    const opening = openCamera();
    closeCamera();
    give(stream);
    await opening;
    expect(stream.getTracks().every((t) => t.stopped)).toBe(true);
    expect(now()).toMatchObject({ phase: "off", stream: null });
  });
  it("keeps the newer of two that open at once", async () => {
    let give!: (stream: FakeStream) => void;
    asked.mockReturnValueOnce(new Promise((done) => (give = done)));
    const slow = new FakeStream();
    const first = openCamera("front");
    await openCamera("mount");
    give(slow);
    await first;
    expect(slow.getTracks().every((t) => t.stopped)).toBe(true);
    expect(now()).toMatchObject({ phase: "ready", stream });
  });
  it("lets the camera before go", async () => {
    await openCamera();
    const before = stream;
    stream = new FakeStream();
    await openCamera("mount");
    expect(before.getTracks().every((t) => t.stopped)).toBe(true);
  });
  it.each([
    ["NotAllowedError", "was not allowed"],
    ["NotFoundError", "No camera or microphone is there"],
    ["NotReadableError", "in use by another program"],
  ])("says what to do about %s", async (name, words) => {
    asked.mockRejectedValue(new DOMException("no", name));
    await openCamera();
    expect(now().phase).toBe("off");
    expect(now().problem).toContain(words);
  });
  it("says what it does not know in the browser's words", () => {
    expect(reason(new Error("strange"))).toBe("The camera cannot be used: strange");
    expect(reason("strange")).toBe("The camera cannot be used: strange");
  });
});

describe("recording", () => {
  const begun = async () => {
    await openCamera();
    countIn();
    vi.advanceTimersByTime(COUNT_IN * 1000);
    return FakeRecorder.made[0]!;
  };

  it("counts in first", async () => {
    await openCamera();
    countIn();
    expect(now()).toMatchObject({ phase: "counting", count: COUNT_IN });
    vi.advanceTimersByTime(1000);
    expect(now().count).toBe(COUNT_IN - 1);
    expect(FakeRecorder.made).toHaveLength(0);
    vi.advanceTimersByTime(2000);
    expect(now().phase).toBe("recording");
  });
  it("can be called off while it counts", async () => {
    await openCamera();
    countIn();
    vi.advanceTimersByTime(1000);
    stop();
    vi.advanceTimersByTime(5000);
    expect(now().phase).toBe("ready");
    expect(FakeRecorder.made).toHaveLength(0);
  });
  it("does not begin without a camera", () => {
    countIn();
    expect(now().phase).toBe("off");
  });
  it("uses the first type that the browser has", async () => {
    expect((await begun()).options.mimeType).toContain("vp8");
  });
  it("keeps all pieces as one clip", async () => {
    const recorder = await begun();
    recorder.give("one ");
    recorder.give("");
    vi.advanceTimersByTime(1000);
    expect(now().seconds).toBeCloseTo(1, 0);
    recorder.give("two");
    stop();
    expect(now().phase).toBe("kept");
    expect(await now().clip!.text()).toBe("one two");
  });
  it("keeps what there is when the camera is unplugged", async () => {
    const recorder = await begun();
    recorder.give("half");
    recorder.stop();
    expect(now().phase).toBe("kept");
    expect(await now().clip!.text()).toBe("half");
  });
  it("goes back to the picture when a clip is thrown away, or to nothing where the camera is gone", async () => {
    await begun();
    stop();
    throwAway();
    expect(now()).toMatchObject({ phase: "ready", clip: null });
    stream.active = false;
    throwAway();
    expect(now().phase).toBe("off");
  });
  it("ends when the panel is closed, and lets the camera go", async () => {
    const recorder = await begun();
    closeCamera();
    expect(recorder.state).toBe("inactive");
    expect(stream.getTracks().every((t) => t.stopped)).toBe(true);
    expect(now().phase).toBe("off");
  });
});
