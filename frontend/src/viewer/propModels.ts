// The props of a shot in three.js: each goes where the server says.
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import type { PropWays } from "../workspace/tables";
import { drop } from "./model";

const NUMBERS = 7; // of a prop in a frame: metres and rotation

export class PropModels {
  readonly group = new THREE.Group();
  private readonly places = new Map<string, THREE.Group>();
  private readonly sources = new Map<string, string>();

  /** Whether a prop is drawn from this source, or is on its way. */
  has(prop: string, source: string): boolean {
    return this.sources.get(prop) === source;
  }

  /** Puts a prop in place of what was drawn of it. */
  async put(prop: string, source: string, read: () => Promise<ArrayBuffer>) {
    this.sources.set(prop, source);
    const { scene } = await new GLTFLoader().parseAsync(await read(), "");
    if (this.sources.get(prop) !== source) return drop(scene); // another was asked for meanwhile, or it is gone
    this.clear(prop);
    const place = new THREE.Group();
    place.visible = false; // until it is known where it is
    place.add(scene);
    this.places.set(prop, place);
    this.group.add(place);
  }

  /** Takes away the props that are not among these. */
  keep(props: string[]) {
    for (const prop of [...this.sources.keys()]) {
      if (props.includes(prop)) continue;
      this.sources.delete(prop);
      this.clear(prop);
    }
  }

  private clear(prop: string) {
    const place = this.places.get(prop);
    if (!place) return;
    this.group.remove(place);
    drop(place);
    this.places.delete(prop);
  }

  /** Shows each where it is in a frame. sizes: by prop. */
  show(ways: PropWays | null, sizes: Record<string, number>, frame: number) {
    for (const [prop, place] of this.places) {
      const found = ways ? placeOf(ways, prop, frame) : null;
      place.visible = !!found;
      if (!found) continue;
      place.position.fromArray(found, 0);
      place.quaternion.fromArray(found, 3);
      place.scale.setScalar(sizes[prop] ?? 1);
    }
  }

  /** What all of them take up now; empty where none is shown. */
  box(): THREE.Box3 {
    const out = new THREE.Box3();
    for (const place of this.places.values()) if (place.visible) out.expandByObject(place);
    return out;
  }

  dispose() {
    this.keep([]);
  }
}

/** The seven numbers of a prop in a frame, held beyond the last; null for one that has no way. Pure. */
export function placeOf({ columns, table }: PropWays, prop: string, frame: number): number[] | null {
  const column = columns.indexOf(prop);
  const frames = table.shape[0] ?? 0;
  if (column < 0 || !frames) return null;
  const at = (Math.min(Math.max(frame, 0), frames - 1) * columns.length + column) * NUMBERS;
  return [...table.data.subarray(at, at + NUMBERS)];
}
