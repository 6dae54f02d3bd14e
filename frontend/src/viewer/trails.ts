// Where joints went: a line through the places of each, with a mark where it is now.
import * as THREE from "three";
import type { JointCurves } from "../workspace/tables";
import { placeColumns, type Watched } from "../workspace/watched";

const MARK = 0.012; // metres

/** Places (frames * 3) of a joint in metres; null where its curves are not there. Pure. */
export function trailOf({ columns, table }: JointCurves, joint: string): Float32Array | null {
  const own = placeColumns(columns, joint);
  if (!own) return null;
  const frames = table.shape[0]!;
  const out = new Float32Array(frames * 3);
  for (let frame = 0; frame < frames; frame++)
    own.forEach((column, axis) => (out[frame * 3 + axis] = table.data[frame * columns.length + column]!));
  return out;
}

/** The trails of a character, in its own space. */
export class Trails {
  readonly group = new THREE.Group();
  private readonly line = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.9, depthTest: false });
  private readonly spot = new THREE.MeshBasicMaterial({ depthTest: false });
  private readonly ball = new THREE.SphereGeometry(MARK, 12, 8);
  private shown: { points: Float32Array; mark: THREE.Mesh }[] = [];
  private of: { curves: JointCurves | null; watched: Watched } = { curves: null, watched: {} };

  /** Lays the lines anew where curves or looks are others, and puts the marks where the joints are at a frame. */
  show(curves: JointCurves | null, watched: Watched, frame: number) {
    if (this.of.curves !== curves || this.of.watched !== watched) {
      this.of = { curves, watched };
      this.lay();
    }
    for (const { points, mark } of this.shown) {
      const at = Math.min(Math.max(Math.round(frame), 0), points.length / 3 - 1) * 3;
      mark.position.set(points[at]!, points[at + 1]!, points[at + 2]!);
    }
  }

  setColours(line: string, mark: string) {
    this.line.color.set(line);
    this.spot.color.set(mark);
  }

  private lay() {
    this.empty();
    const { curves, watched } = this.of;
    for (const joint of Object.keys(watched)) {
      const points = curves && watched[joint]!.includes("trail") ? trailOf(curves, joint) : null;
      if (!points) continue;
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
      const line = new THREE.Line(geometry, this.line);
      const mark = new THREE.Mesh(this.ball, this.spot);
      line.renderOrder = 2;
      mark.renderOrder = 3;
      line.frustumCulled = false;
      this.group.add(line, mark);
      this.shown.push({ points, mark });
    }
  }

  private empty() {
    for (const child of this.group.children)
      if (child instanceof THREE.Line) (child.geometry as THREE.BufferGeometry).dispose();
    this.group.clear();
    this.shown = [];
  }

  dispose() {
    this.empty();
    this.line.dispose();
    this.spot.dispose();
    this.ball.dispose();
  }
}
