// One clock: time, rate, loop. While there is sound it is the master: frames drop, sound never does.
export type Span = { from: number; to: number };
type Listener = () => void;

export class Clock {
  /** Seconds into the take. */
  time = 0;
  playing = false;
  rate = 1;
  looping = true;
  scrubSound = false;
  seconds = 0;
  fps = 60;
  range: Span | null = null;
  private soundOffset = 0;
  private buffer: AudioBuffer | null = null;
  private sounds = 0;
  private context: AudioContext | null = null;
  private source: AudioBufferSourceNode | null = null;
  private startedAt = 0;
  private startedFrom = 0;
  private readonly moved = new Set<Listener>();
  private readonly changed = new Set<Listener>();
  private readonly looped = new Set<Listener>();

  /** Called whenever time moves. */
  onMove(listener: Listener): () => void {
    this.moved.add(listener);
    return () => this.moved.delete(listener);
  }

  /** Called when playing, rate, range or loop change. */
  onChange(listener: Listener): () => void {
    this.changed.add(listener);
    return () => this.changed.delete(listener);
  }

  /** Called when playing has reached the end of the range and begins it again. */
  onLoop(listener: Listener): () => void {
    this.looped.add(listener);
    return () => this.looped.delete(listener);
  }

  load(seconds: number, fps: number, keep = false) {
    this.seconds = seconds;
    this.fps = fps;
    if (!keep) {
      this.pause();
      this.range = null;
      this.time = 0;
    }
    this.tell(this.changed);
    this.tell(this.moved);
  }

  /** Samples of the take's sound, or null. */
  async setSound(raw: ArrayBuffer | null) {
    const mine = ++this.sounds;
    this.pause();
    this.buffer = null;
    if (!raw) return;
    const decoded = await this.audio().decodeAudioData(raw);
    // One that was slow to decode does not replace a newer one.
    if (mine === this.sounds) this.buffer = decoded;
  }

  /** Seconds that are added to the sound's own times. */
  setSoundOffset(seconds: number) {
    if (seconds === this.soundOffset) return;
    this.soundOffset = seconds;
    if (this.playing) this.restart();
  }

  get frames(): number {
    return Math.max(Math.round(this.seconds * this.fps), 1);
  }

  /** The whole frame that is shown now. */
  get frame(): number {
    return Math.min(Math.max(Math.floor(this.time * this.fps + 1e-6), 0), this.frames - 1);
  }

  get span(): Span {
    return this.range ?? { from: 0, to: this.frames - 1 };
  }

  toggle() {
    if (this.playing) this.pause();
    else this.play();
  }

  play() {
    if (this.playing || !this.seconds) return;
    const { from, to } = this.span;
    if (this.frame >= to || this.frame < from) this.time = from / this.fps;
    this.playing = true;
    void this.audio().resume();
    this.restart();
    requestAnimationFrame(this.tick);
    this.tell(this.changed);
  }

  pause() {
    if (!this.playing) return;
    this.playing = false;
    this.stopSource();
    this.tell(this.changed);
  }

  seekFrame(frame: number) {
    const held = Math.min(Math.max(Math.round(frame), 0), this.frames - 1);
    this.time = (held + 0.5) / this.fps - 0.5 / this.fps;
    if (this.playing) this.restart();
    else if (this.scrubSound) this.grain();
    this.tell(this.moved);
  }

  step(by: number) {
    this.pause();
    this.seekFrame(this.frame + by);
  }

  setRate(rate: number) {
    this.rate = rate;
    if (this.playing) this.restart();
    this.tell(this.changed);
  }

  setRange(range: Span | null) {
    this.range = range && range.to > range.from ? range : null;
    this.tell(this.changed);
  }

  setLooping(on: boolean) {
    this.looping = on;
    this.tell(this.changed);
  }

  setScrubSound(on: boolean) {
    this.scrubSound = on;
    this.tell(this.changed);
  }

  private audio(): AudioContext {
    this.context ??= new AudioContext();
    return this.context;
  }

  private tell(listeners: Set<Listener>) {
    for (const listener of listeners) listener();
  }

  /** The time base: the sound card's clock where there is sound and it runs, else the page's. */
  private now(): number {
    return this.source && this.context?.state === "running" ? this.context.currentTime : performance.now() / 1000;
  }

  private restart() {
    this.stopSource();
    this.startedFrom = this.time;
    if (this.buffer) {
      const context = this.audio();
      const at = this.time - this.soundOffset;
      this.source = context.createBufferSource();
      this.source.buffer = this.buffer;
      this.source.playbackRate.value = this.rate;
      this.source.connect(context.destination);
      if (at < this.buffer.duration)
        this.source.start(context.currentTime + Math.max(0, -at / this.rate), Math.max(0, at));
    }
    this.startedAt = this.now();
  }

  private stopSource() {
    try {
      this.source?.stop();
    } catch {
      // It had not begun: the take ended before its sound.
    }
    this.source?.disconnect();
    this.source = null;
  }

  /** A moment of sound at the playhead while scrubbing. */
  private grain() {
    if (!this.buffer) return;
    const at = this.time - this.soundOffset;
    if (at < 0 || at >= this.buffer.duration) return;
    this.stopSource();
    const context = this.audio();
    void context.resume();
    this.source = context.createBufferSource();
    this.source.buffer = this.buffer;
    this.source.connect(context.destination);
    this.source.start(0, at, 0.08);
  }

  private wasRunning = false;

  private readonly tick = () => {
    if (!this.playing) return;
    const running = this.context?.state === "running" && this.source !== null;
    if (running !== this.wasRunning) {
      // The time base changed under way: go on from where we are.
      this.wasRunning = running;
      this.startedFrom = this.time;
      this.startedAt = this.now();
    }
    this.time = this.startedFrom + Math.max(0, this.now() - this.startedAt) * this.rate;
    const { from, to } = this.span;
    if (this.time * this.fps >= to + 1) {
      if (this.looping) {
        this.time = from / this.fps;
        this.restart();
        this.tell(this.looped);
      } else {
        this.time = to / this.fps;
        this.pause();
      }
    }
    this.tell(this.moved);
    if (this.playing) requestAnimationFrame(this.tick);
  };
}

export const clock = new Clock();
