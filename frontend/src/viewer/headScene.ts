// The plain capture head, seen by the camera of the footage; knows nothing of React.
import * as THREE from "three";
import type { Place } from "./footage";
import { HeadMesh } from "./headMesh";
import type { HeadModel } from "./headModel";
import { SceneCanvas } from "./sceneCanvas";

/** The lights that heads are shown in. */
export function headLights(): THREE.Light[] {
  const key = new THREE.DirectionalLight("#fff1de", 2.3);
  key.position.set(-0.6, 0.9, 1.2);
  const rim = new THREE.DirectionalLight("#9cc2d6", 1.1);
  rim.position.set(1.4, 0.6, -0.6);
  return [key, rim, new THREE.HemisphereLight("#dfe6e4", "#5a4a3e", 1.5)];
}

export class HeadScene {
  private readonly canvas: SceneCanvas;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(40, 1, 0.02, 20);
  private readonly head = new HeadMesh();

  constructor(canvas: HTMLCanvasElement) {
    this.canvas = new SceneCanvas(canvas, true);
    this.scene.add(...headLights(), this.head.group);
  }

  load(model: HeadModel) {
    this.head.load(model);
    this.camera.fov = model.fov;
  }

  /** Moves the head as in a frame of the clip's solve. */
  pose(weights: ArrayLike<number>, frame: number) {
    this.head.pose(weights, frame);
  }

  /** Draws into a box of CSS pixels, where the picture of the footage (width x height) lies at `place`. */
  render(width: number, height: number, place: Place, pictureWidth: number, pictureHeight: number) {
    if (!this.canvas.fit(width, height)) return;
    const { renderer } = this.canvas;
    const [w, h] = [pictureWidth * place.scale, pictureHeight * place.scale];
    renderer.setViewport(place.left, height - place.top - h, w, h);
    this.camera.aspect = pictureWidth / pictureHeight;
    this.camera.updateProjectionMatrix();
    renderer.render(this.scene, this.camera);
  }

  dispose() {
    this.head.clear();
    this.canvas.renderer.dispose();
  }
}
