// Several characters in one scene, each standing where its role stands in the shot.
import * as THREE from "three";
import type { Body } from "../workspace/workspace";
import { CharacterModel } from "./model";
import { CharacterScene } from "./scene";

const WIDE = 0.34; // metres beside the outermost faces that are seen with them

export class StageScene extends CharacterScene {
  private readonly models = new Map<string, CharacterModel>();

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
    const box = new THREE.Box3();
    let size = 1;
    for (const model of this.models.values()) {
      const own = model.box();
      if (!own) continue;
      const eyes = model.eyes();
      const head = eyes?.middle ?? model.headPlace();
      if (what === "face" && head) {
        size = Math.max(size, eyes?.size ?? 1);
        box.expandByPoint(head);
      } else box.union(own);
    }
    if (box.isEmpty()) return;
    const target = box.getCenter(new THREE.Vector3());
    const span = box.getSize(new THREE.Vector3());
    const view = 2 * Math.tan(THREE.MathUtils.degToRad(this.camera.fov / 2));
    const distance =
      what === "face"
        ? Math.max(0.8 * size, (span.x + WIDE * size) / (view * this.camera.aspect), (span.y + WIDE * size) / view)
        : Math.max(span.y * 1.15, (span.x * 1.15) / this.camera.aspect) / view;
    this.controls.target.copy(target);
    this.camera.position.set(target.x + distance * 0.16, target.y + distance * 0.03, target.z + distance * 0.98);
    this.controls.update();
  }

  override follow() {
    // The stage stays where it is: roles move on it.
  }

  override dispose() {
    this.keep([]);
    super.dispose();
  }
}
