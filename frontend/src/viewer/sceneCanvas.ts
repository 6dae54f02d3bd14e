// A canvas that three.js draws a scene on, and the camera that the mouse moves; what is in the scene is its owner's.
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

export class SceneCanvas {
  readonly renderer: THREE.WebGLRenderer;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    clear: boolean,
  ) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: clear });
    this.renderer.toneMapping = THREE.ACESFilmicToneMapping;
  }

  /** Makes the drawing as large as its box, in CSS pixels, and the camera's picture as wide; false where the box is empty. */
  fit(width: number, height: number, camera?: THREE.PerspectiveCamera): boolean {
    if (!width || !height) return false;
    const ratio = Math.min(window.devicePixelRatio || 1, 2);
    this.renderer.setPixelRatio(ratio);
    if (this.canvas.width !== Math.floor(width * ratio) || this.canvas.height !== Math.floor(height * ratio))
      this.renderer.setSize(width, height, false);
    if (camera) {
      camera.aspect = width / height;
      camera.updateProjectionMatrix();
    }
    return true;
  }

  /** Done when the shaders of a scene are made, where the browser makes them beside the page: it would stand still for them later. */
  async ready(scene: THREE.Scene, camera: THREE.Camera): Promise<void> {
    if (this.renderer.extensions.has("KHR_parallel_shader_compile")) await this.renderer.compileAsync(scene, camera);
  }

  /** Lets the mouse turn, move and bring near; `changed` is called when it does. */
  orbit(camera: THREE.Camera, least: number, most: number, changed: () => void): OrbitControls {
    const controls = new OrbitControls(camera, this.canvas);
    controls.minDistance = least;
    controls.maxDistance = most;
    controls.addEventListener("change", changed);
    return controls;
  }
}
