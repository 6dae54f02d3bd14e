// A character's scene with the canvas that it is drawn on; both move from view to view.
import { api } from "../api/client";
import { Kept } from "./kept";
import { CharacterScene } from "./scene";

export class CharacterCanvas {
  readonly canvas = document.createElement("canvas");
  readonly scene: CharacterScene;
  /** Whose model is there or on its way, "" for none; ready: it is there. */
  source = "";
  ready = false;
  private coming: Promise<void> = Promise.resolve();

  /** Throws where this browser draws no 3D. */
  constructor() {
    this.canvas.style.cssText = "width: 100%; height: 100%; display: block";
    this.scene = new CharacterScene(this.canvas);
  }

  /** Done when the model of a source is there; throws what is wrong with it. */
  show(source: string): Promise<void> {
    if (source === this.source) return this.coming;
    this.source = source;
    this.ready = false;
    this.scene.clear();
    this.coming = this.load(source).catch((wrong: unknown) => {
      if (this.source === source) this.source = "";
      throw wrong;
    });
    return this.coming;
  }

  /** The graphics card has taken it away. */
  get lost() {
    return this.canvas.getContext("webgl2")?.isContextLost() ?? true;
  }

  dispose() {
    this.scene.dispose();
  }

  private async load(source: string) {
    const raw = await api.media(source);
    if (this.source !== source) return;
    await this.scene.load(raw);
    if (this.source === source) this.ready = true;
  }
}

/** Those that were left; a desk that is changed finds its characters again. */
export const left = new Kept<CharacterCanvas>(3, 30);
