// Several characters in one scene, each standing where its role stands in the shot: all bodies together on the ground, or the
// faces side by side, each in a column of its own and seen from the same side, however tall they are.
import * as THREE from "three";
import type { Body } from "../workspace/workspace";
import { CharacterModel } from "./model";
import { PropModels } from "./propModels";
import { CharacterScene } from "./scene";

/** A face that has a column: where it is looked at, where its head was then, and how large it is against a usual one. */
type Column = { role: string; model: CharacterModel; target: THREE.Vector3; head: THREE.Vector3; size: number };
/** A place of a role in the picture. mesh: the node that it belongs to; place: metres at rest in the character's own space;
 * plane: the directions of that space which the picture shows as right and up; x, y: CSS pixels. */
export type HeldPlace = {
  role: string;
  mesh: string;
  place: [number, number, number];
  plane: [number[], number[]];
  metresPerPixel: number;
  x: number;
  y: number;
};
const FACE = 0.62; // of a column's height that a picture shows
const NEAR = 0.8; // metres from which a usual face is looked at

/** The corners of where a body goes, in the character's own space. Pure. */
export function waysOf(body: Body | null): THREE.Vector3[] {
  const box = new THREE.Box3();
  const data = body?.rootJoint ? body.root?.data : undefined;
  for (let i = 0; data && i < data.length; i += 3) {
    box.expandByPoint(new THREE.Vector3(data[i], data[i + 1], data[i + 2]));
  }
  return box.isEmpty() ? [new THREE.Vector3()] : [box.min, box.max];
}

export class StageScene extends CharacterScene {
  private readonly models = new Map<string, CharacterModel>();
  private columns: Column[] = [];
  private readonly moving = new Map<string, Body | null>();
  readonly props = new PropModels();

  constructor(canvas: HTMLCanvasElement) {
    super(canvas);
    this.scene.add(this.props.group);
  }

  /** Puts a role's character in place of the one that it had. */
  async put(role: string, raw: ArrayBuffer): Promise<void> {
    let model = this.models.get(role);
    if (!model) {
      model = new CharacterModel();
      this.models.set(role, model);
      this.scene.add(model.place);
    }
    await model.load(raw);
  }

  /** Takes away the roles that are not among these. */
  keep(roles: string[]) {
    for (const [role, model] of this.models) {
      if (roles.includes(role)) continue;
      this.scene.remove(model.place);
      model.dispose();
      this.models.delete(role);
      this.moving.delete(role);
    }
    this.columns = [];
  }

  /** at: metres on the ground; turn: degrees to its own left. */
  stand(role: string, at: [number, number, number], turn: number) {
    const place = this.models.get(role)?.place;
    place?.position.set(...at);
    place?.rotation.set(0, THREE.MathUtils.degToRad(turn), 0);
  }

  show(role: string, body: Body | null, frame: number) {
    this.moving.set(role, body);
    this.models.get(role)?.pose(body, frame, {});
  }

  override frame(what: "face" | "body") {
    this.turnTo(what);
    this.columns = [];
    const box = new THREE.Box3();
    for (const [role, model] of this.models) {
      const own = model.box();
      if (!own) continue;
      for (const way of waysOf(this.moving.get(role) ?? null)) {
        box.union(own.clone().translate(way.applyQuaternion(model.place.quaternion)));
      }
      const eyes = model.eyes();
      const head = model.headPlace();
      const target = eyes?.middle.clone().add(new THREE.Vector3(0, 0.01, -0.02)) ?? head?.clone();
      if (what === "face" && head && target) this.columns.push({ role, model, target, head, size: eyes?.size ?? 1 });
    }
    this.columns.sort((a, b) => a.target.x - b.target.x);
    if (box.isEmpty()) return;
    box.union(this.props.box());
    const target = box.getCenter(new THREE.Vector3());
    const span = box.getSize(new THREE.Vector3());
    const view = 2 * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2));
    let distance = Math.max(span.y * 1.15, (span.x * 1.15) / this.camera.aspect) / view + span.z / 2;
    const first = this.columns[0];
    if (first) {
      target.copy(first.target);
      // A narrow column is looked at from farther away, so that the face is not cut.
      distance = NEAR * Math.max(1, (0.62 * this.columns.length) / this.camera.aspect);
    }
    this.controls.target.copy(target);
    this.camera.position.set(target.x + distance * 0.2, target.y + distance * 0.03, target.z + distance * 0.97);
    this.controls.update();
  }

  override follow() {
    // The stage stays where it is: roles move on it.
  }

  override render() {
    if (!this.columns.length) return super.render();
    const { renderer } = this.drawing;
    const size = renderer.getSize(new THREE.Vector2());
    renderer.setScissorTest(true);
    this.columns.forEach((column, i) => {
      const [x, wide] = [(size.x * i) / this.columns.length, size.x / this.columns.length];
      for (const other of this.columns) other.model.place.visible = other === column;
      const back = this.aim(column, wide / Math.max(size.y, 1));
      renderer.setViewport(x, 0, wide, size.y);
      renderer.setScissor(x, 0, wide, size.y);
      renderer.render(this.scene, this.camera);
      back();
    });
    for (const { model } of this.columns) model.place.visible = true;
    renderer.setScissorTest(false);
    renderer.setViewport(0, 0, size.x, size.y);
  }

  /** Where the canvas, drawn now, shows a role's face: a square of its own pixels; null where it does not. at: how it moves and a frame
   * of that, in place of how it stands; the next drawing of the page shows what stands again. */
  pictureOf(
    role: string,
    at?: { body: Body; frame: number },
  ): { canvas: HTMLCanvasElement; x: number; y: number; size: number } | null {
    const column = this.columns.findIndex((c) => c.model === this.models.get(role));
    if (column < 0) return null;
    if (at) this.show(role, at.body, at.frame);
    this.render();
    const canvas = this.drawing.renderer.domElement;
    const wide = canvas.width / this.columns.length;
    const size = Math.min(wide, canvas.height) * FACE;
    return { canvas, x: wide * column + (wide - size) / 2, y: (canvas.height - size) / 2, size };
  }

  /** The place of a face under a point of the picture in CSS pixels, for taking hold of it; null where there is none. */
  grabAt(x: number, y: number): HeldPlace | null {
    const size = this.drawing.renderer.getSize(new THREE.Vector2());
    const count = Math.max(this.columns.length, 1);
    const wide = size.x / count;
    const column = this.columns[Math.min(Math.floor(x / wide), count - 1)];
    const models = column ? [column.model] : [...this.models.values()];
    const own = this.aim(column, wide / Math.max(size.y, 1));
    const left = column ? this.columns.indexOf(column) * wide : 0;
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(((x - left) / wide) * 2 - 1, 1 - (y / size.y) * 2), this.camera);
    let found: HeldPlace | null = null;
    for (const model of models) {
      const picked = model.pick(ray);
      const role = [...this.models].find(([, m]) => m === model)?.[0];
      if (!picked || !role) continue;
      const [right, up, back] = [0, 1, 2].map((i) =>
        new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, i),
      );
      const depth = this.camera.position.clone().sub(picked.at).dot(back!);
      const shown = picked.at.clone().project(this.camera);
      found = {
        role,
        mesh: picked.node,
        place: picked.rest.toArray(),
        plane: [picked.axes.map((a) => a.dot(right!)), picked.axes.map((a) => a.dot(up!))],
        metresPerPixel: (2 * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2)) * depth) / Math.max(size.y, 1),
        x: left + ((shown.x + 1) / 2) * wide,
        y: ((1 - shown.y) / 2) * size.y,
      };
    }
    own();
    return found;
  }

  /** Where a face is looked at: it stays in sight where its body goes. */
  private lookedAt({ role, model, target, head }: Column): THREE.Vector3 {
    const now = this.moving.get(role)?.rootJoint ? model.headPlace() : null;
    return now ? now.sub(head).add(target) : target;
  }

  /** Puts the camera where it is for a column; gives what puts it back. */
  private aim(column: Column | undefined, aspect: number): () => void {
    const [position, before] = [this.camera.position.clone(), this.camera.aspect];
    if (column) {
      const offset = position.clone().sub(this.controls.target);
      this.camera.position.copy(this.lookedAt(column)).addScaledVector(offset, column.size);
      this.camera.aspect = aspect;
      this.camera.updateProjectionMatrix();
      this.camera.updateMatrixWorld(true);
    }
    return () => {
      this.camera.position.copy(position);
      this.camera.aspect = before;
      this.camera.updateProjectionMatrix();
      this.camera.updateMatrixWorld(true);
    };
  }

  override dispose() {
    this.keep([]);
    this.props.dispose();
    super.dispose();
  }
}
