// What a deck showed last, without its playhead: while that alone moves, nothing else is drawn again.

export class Sheet {
  private canvas: HTMLCanvasElement | null = null;
  private fresh = false;

  /** Something else than the playhead changes. */
  spoil() {
    this.fresh = false;
  }

  /** Keeps what a canvas shows. */
  keep(shown: HTMLCanvasElement) {
    this.canvas ??= document.createElement("canvas");
    if (this.canvas.width !== shown.width || this.canvas.height !== shown.height) {
      this.canvas.width = shown.width;
      this.canvas.height = shown.height;
    }
    this.canvas.getContext("2d")?.drawImage(shown, 0, 0);
    this.fresh = true;
  }

  /** Shows what was kept; whether it could. */
  lay(canvas: HTMLCanvasElement, context: CanvasRenderingContext2D): boolean {
    const kept = this.canvas;
    if (!this.fresh || !kept || kept.width !== canvas.width || kept.height !== canvas.height) return false;
    context.save();
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.globalAlpha = 1;
    context.drawImage(kept, 0, 0);
    context.restore();
    return true;
  }
}
