// The character in three.js; knows nothing of React.
import * as THREE from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { isLight } from "../shared/colourMode";
import type { Body } from "../workspace/workspace";
import type { JointCurves } from "../workspace/tables";
import type { Watched } from "../workspace/watched";
import { groundLines } from "./ground";
import { CharacterModel } from "./model";
import { SceneCanvas } from "./sceneCanvas";
import { Trails } from "./trails";

const NARROW = 0.7; // of its height is how wide a view must be for a face to fit at the usual distance

export class CharacterScene {
  readonly scene = new THREE.Scene();
  readonly camera = new THREE.PerspectiveCamera(26, 1, 0.02, 60);
  readonly controls: OrbitControls;
  protected readonly drawing: SceneCanvas;
  private readonly key = new THREE.DirectionalLight("#fff0da", 2.5);
  private readonly model = new CharacterModel();
  private readonly ground = groundLines();
  private readonly trails = new Trails();
  private changed: () => void = () => undefined;
  private light = { turn: 0.55, lift: 0.75 };
  /** Where the head was when the camera was last moved along. */
  private followed: THREE.Vector3 | null = null;
  framing: "face" | "body" = "face";

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.drawing = new SceneCanvas(canvas, false);
    this.drawing.renderer.toneMappingExposure = 1.05;
    this.scene.add(this.model.place, this.ground, this.trails.group);
    this.turnTo(this.framing);
    this.scene.add(this.key, new THREE.HemisphereLight("#d3dfe0", "#57483a", 1.9));
    const rim = new THREE.DirectionalLight("#9cc2d6", 1.5);
    rim.position.set(-1.8, 2.0, -2.2);
    this.scene.add(rim);
    this.setLight(0, 0);
    this.controls = this.drawing.orbit(this.camera, 0.25, 12, () => this.changed());
  }

  /** Who draws it from now on: called when the mouse moves the camera. */
  onChange(changed: () => void) {
    this.changed = changed;
  }

  async load(raw: ArrayBuffer): Promise<string[]> {
    const { place } = this.model;
    place.visible = false;
    const names = await this.model.load(raw);
    await this.drawing.ready(this.scene, this.camera);
    place.visible = true;
    this.frame(this.framing);
    return names;
  }

  clear() {
    this.model.clear();
  }

  /** Poses the character as in one frame of the take; `tried` weights by hand win. */
  pose(body: Body | null, frame: number, tried: Record<string, number>) {
    this.model.pose(body, frame, tried);
  }

  /** Where joints went, with marks where they are at a frame. */
  trail(curves: JointCurves | null, watched: Watched, frame: number) {
    this.trails.show(curves, watched, frame);
  }

  turnJoint(name: string, axis: [number, number, number], degrees: number) {
    this.model.turnJoint(name, axis, degrees);
  }

  /** As dark or light as the page is. */
  setTheme() {
    const light = isLight();
    this.scene.background = new THREE.Color(light ? "#cfd3c6" : "#15231e");
    this.ground.material.color.set(light ? "#8b9384" : "#4c6a5c");
    this.trails.setColours(light ? "#7d5a12" : "#e9b44c", light ? "#20281f" : "#f4efe0");
  }

  /** Bodies are seen on the ground, in squares of half a metre; a face is not. */
  protected turnTo(what: "face" | "body") {
    this.framing = what;
    this.ground.visible = what === "body";
  }

  /** Turns the key light by degrees. */
  setLight(turnBy: number, liftBy: number) {
    this.light.turn += turnBy;
    this.light.lift = Math.min(Math.max(this.light.lift + liftBy, -0.6), 1.5);
    const { turn, lift } = this.light;
    this.key.position.set(
      4 * Math.sin(turn) * Math.cos(lift),
      1.5 + 4 * Math.sin(lift),
      4 * Math.cos(turn) * Math.cos(lift),
    );
    this.key.target.position.set(0, 1.5, 0);
    this.key.target.updateMatrixWorld();
  }

  /** Looks at the face or at the whole body, where the character stands now. */
  frame(what: "face" | "body") {
    this.turnTo(what);
    const head = this.model.headPlace();
    this.followed = head;
    const target = new THREE.Vector3(0, 1.5, 0);
    let distance = 1;
    if (what === "face" && head) {
      // Heads differ in size: the distance between the eyes says how far away to look from.
      const eyes = this.model.eyes();
      const size = eyes?.size ?? 1;
      if (eyes) target.copy(eyes.middle).add(new THREE.Vector3(0, 0.014 * size, -0.02 * size));
      else target.copy(head).add(new THREE.Vector3(0, 0.065, 0.05));
      distance = 0.84 * size * Math.max(1, NARROW / this.camera.aspect);
    } else {
      const box = this.model.box(); // looked for where it is needed only: each vertex of a skin is bent for it
      if (box) {
        const size = box.getSize(new THREE.Vector3());
        box.getCenter(target);
        if (head) target.set(head.x, size.y * 0.5, head.z);
        distance = Math.max(size.y, 0.2) * 2.55;
      }
    }
    this.controls.target.copy(target);
    this.camera.position.set(target.x + distance * 0.34, target.y + distance * 0.03, target.z + distance * 0.94);
    this.controls.update();
    this.changed();
  }

  /** Moves the camera along with the head, so that a walking face stays in sight, also from take to take. */
  follow() {
    const at = this.model.headPlace();
    if (at && this.followed) {
      const by = at.clone().sub(this.followed);
      if (this.framing === "body") by.y = 0;
      this.controls.target.add(by);
      this.camera.position.add(by);
    }
    this.followed = at;
  }

  zoom(by: number) {
    this.camera.zoom = by;
    this.camera.updateProjectionMatrix();
  }

  resize(width = this.canvas.parentElement!.clientWidth, height = this.canvas.parentElement!.clientHeight) {
    this.drawing.fit(width, height, this.camera);
  }

  render() {
    this.drawing.renderer.render(this.scene, this.camera);
  }

  dispose() {
    this.model.dispose();
    this.trails.dispose();
    this.ground.geometry.dispose();
    this.ground.material.dispose();
    this.controls.dispose();
    this.drawing.renderer.dispose();
  }
}
