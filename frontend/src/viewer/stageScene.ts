// Several characters in one scene, each standing where its role stands in the shot: all bodies together on the ground, or the
// faces side by side, each in a column of its own and seen from the same side, however tall they are.
import * as THREE from "three";
import type { Body } from "../workspace/workspace";
import { CharacterModel } from "./model";
import { CharacterScene } from "./scene";

/** A face that has a column: where it is looked at, and how large it is against a usual one. */
type Column = { model: CharacterModel; target: THREE.Vector3; size: number };
const NEAR = 0.8; // metres from which a usual face is looked at

export class StageScene extends CharacterScene {
  private readonly models = new Map<string, CharacterModel>();
  private columns: Column[] = [];

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
    this.models.get(role)?.pose(body, frame, {});
  }

  override frame(what: "face" | "body") {
    this.framing = what;
    this.columns = [];
    const box = new THREE.Box3();
    for (const model of this.models.values()) {
      const own = model.box();
      if (!own) continue;
      box.union(own);
      const eyes = model.eyes();
      const head = eyes?.middle.clone().add(new THREE.Vector3(0, 0.01, -0.02)) ?? model.headPlace();
      if (what === "face" && head) this.columns.push({ model, target: head, size: eyes?.size ?? 1 });
    }
    this.columns.sort((a, b) => a.target.x - b.target.x);
    if (box.isEmpty()) return;
    const target = box.getCenter(new THREE.Vector3());
    const span = box.getSize(new THREE.Vector3());
    const view = 2 * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2));
    let distance = Math.max(span.y * 1.15, (span.x * 1.15) / this.camera.aspect) / view;
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
    const offset = this.camera.position.clone().sub(this.controls.target);
    const own = { position: this.camera.position.clone(), aspect: this.camera.aspect };
    renderer.setScissorTest(true);
    this.columns.forEach((column, i) => {
      const [x, wide] = [(size.x * i) / this.columns.length, size.x / this.columns.length];
      for (const other of this.columns) other.model.place.visible = other === column;
      this.camera.position.copy(column.target).addScaledVector(offset, column.size);
      this.camera.aspect = wide / Math.max(size.y, 1);
      this.camera.updateProjectionMatrix();
      renderer.setViewport(x, 0, wide, size.y);
      renderer.setScissor(x, 0, wide, size.y);
      renderer.render(this.scene, this.camera);
    });
    for (const { model } of this.columns) model.place.visible = true;
    renderer.setScissorTest(false);
    renderer.setViewport(0, 0, size.x, size.y);
    this.camera.position.copy(own.position);
    this.camera.aspect = own.aspect;
    this.camera.updateProjectionMatrix();
  }

  override dispose() {
    this.keep([]);
    super.dispose();
  }
}
