// What was on screen a moment ago, given back to whoever shows the same next: making it anew takes longer than people wait.

type Shown = { source: string; dispose: () => void };

/** most: how many are kept; seconds: how long each. */
export class Kept<T extends Shown> {
  private readonly all: { one: T; timer: number }[] = [];

  constructor(
    private readonly most: number,
    private readonly seconds: number,
  ) {}

  /** One that shows a source, or else the one that was left first. */
  take(source: string): T | null {
    const at = this.all.findIndex(({ one }) => one.source === source);
    const found = this.all.splice(Math.max(at, 0), 1)[0];
    if (!found) return null;
    window.clearTimeout(found.timer);
    return found.one;
  }

  leave(one: T) {
    const timer = window.setTimeout(() => this.drop(one), this.seconds * 1000);
    this.all.push({ one, timer });
    if (this.all.length > this.most) this.drop(this.all[0]!.one);
  }

  private drop(one: T) {
    const at = this.all.findIndex((kept) => kept.one === one);
    const [gone] = this.all.splice(at, 1);
    window.clearTimeout(gone!.timer);
    one.dispose();
  }
}
