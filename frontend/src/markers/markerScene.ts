// Markers in three.js: points with trails beside the head that they move, seen from any side; knows nothing of React.
import * as THREE from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import type { HeadModel } from "../viewer/headModel";
import { poseAt } from "../viewer/headModel";
import { HeadMesh } from "../viewer/headMesh";
import { headLights } from "../viewer/headScene";
import { SceneCanvas } from "../viewer/sceneCanvas";
import type { Cloud } from "./geometry";

const TRAIL = 24; // frames
/** How a marker is drawn: its colour, and whether it sits on a place. */
export type Look = { colour: string; placed: boolean };

export class MarkerScene {
  readonly controls: OrbitControls;
  private readonly canvas: SceneCanvas;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.PerspectiveCamera(24, 1, 0.02, 20);
  private readonly head = new HeadMesh();
  private readonly moved = new THREE.Group();
  private readonly clouds: Record<"placed" | "free" | "chosen", THREE.Points>;
  private readonly trails = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.75 }),
  );
  private cloud: Cloud | null = null;
  private model: HeadModel | null = null;
  private looks: Look[] = [];
  private chosen = -1;
  private size = { width: 0, height: 0 };

  constructor(canvas: HTMLCanvasElement, changed: () => void) {
    this.canvas = new SceneCanvas(canvas, true);
    this.clouds = { placed: dots(disc(), 9), free: dots(ring(false), 10), chosen: dots(ring(true), 24) };
    this.moved.add(...Object.values(this.clouds), this.trails);
    this.scene.add(...headLights(), this.head.group, this.moved);
    this.controls = this.canvas.orbit(this.camera, 0.2, 6, changed);
    this.look("front");
  }

  load(cloud: Cloud | null, model: HeadModel | null) {
    this.cloud = cloud;
    this.model = model;
    if (model) this.head.load(model);
    else this.head.clear();
  }

  setLooks(looks: Look[], chosen: number) {
    this.looks = looks;
    this.chosen = chosen;
  }

  /** Looks at the head from a side. */
  look(side: "front" | "left" | "right") {
    const turn = { front: 0.12, left: 1.15, right: -1.15 }[side];
    this.controls.target.set(0, -0.035, -0.02);
    this.camera.position.set(0.85 * Math.sin(turn), 0.02, 0.85 * Math.cos(turn));
    this.controls.update();
  }

  /** Shows a frame; still: with the head's motion taken out. */
  draw(frame: number, weights: ArrayLike<number>, still: boolean) {
    const at = this.model ? poseAt(this.model, frame) : Float32Array.of(0, 0, 0, 1, 0, 0, 0);
    if (this.model) this.head.pose(weights, frame);
    this.moved.quaternion.identity();
    this.moved.position.set(0, 0, 0);
    if (still && this.model) {
      this.head.group.quaternion.identity();
      this.head.group.position.set(0, 0, 0);
      this.moved.quaternion.set(at[0]!, at[1]!, at[2]!, at[3]!).invert();
      this.moved.position.set(at[4]!, at[5]!, at[6]!).applyQuaternion(this.moved.quaternion).negate();
    }
    this.fill(frame);
  }

  private fill(frame: number) {
    const cloud = this.cloud;
    const count = cloud?.labels.length ?? 0;
    const held = cloud ? Math.min(Math.max(frame, 0), cloud.frames - 1) : 0;
    const lists: Record<"placed" | "free" | "chosen", number[]> = { placed: [], free: [], chosen: [] };
    const colours: Record<"placed" | "free" | "chosen", number[]> = { placed: [], free: [], chosen: [] };
    const [lines, shades]: [number[], number[]] = [[], []];
    const colour = new THREE.Color();
    for (let m = 0; m < count; m++) {
      const look = this.looks[m];
      colour.set(look?.colour ?? "#b7b2a6");
      const at = (held * count + m) * 3;
      if (cloud!.points[at] === cloud!.points[at]) {
        const kind = look?.placed && !cloud!.gaps?.[held * count + m] ? "placed" : "free";
        lists[kind].push(cloud!.points[at]!, cloud!.points[at + 1]!, cloud!.points[at + 2]!);
        colours[kind].push(colour.r, colour.g, colour.b);
        if (m === this.chosen) {
          lists.chosen.push(cloud!.points[at]!, cloud!.points[at + 1]!, cloud!.points[at + 2]!);
          colours.chosen.push(1, 1, 1);
        }
      }
      for (let f = Math.max(held - (m === this.chosen ? 3 * TRAIL : TRAIL), 0); f < held; f++) {
        const [a, b] = [(f * count + m) * 3, ((f + 1) * count + m) * 3];
        if (cloud!.points[a] !== cloud!.points[a] || cloud!.points[b] !== cloud!.points[b]) continue;
        for (let k = 0; k < 3; k++) lines.push(cloud!.points[a + k]!);
        for (let k = 0; k < 3; k++) lines.push(cloud!.points[b + k]!);
        shades.push(colour.r, colour.g, colour.b, colour.r, colour.g, colour.b);
      }
    }
    for (const kind of ["placed", "free", "chosen"] as const)
      put(this.clouds[kind].geometry, lists[kind], colours[kind]);
    put(this.trails.geometry, lines, shades);
  }

  /** (markers * 2) pixels of the canvas at which the markers of a frame are drawn; far away for those that are not seen. */
  places(frame: number): Float32Array {
    const cloud = this.cloud;
    const count = cloud?.labels.length ?? 0;
    const out = new Float32Array(count * 2).fill(-1e6);
    if (!cloud) return out;
    const held = Math.min(Math.max(frame, 0), cloud.frames - 1);
    const point = new THREE.Vector3();
    for (let m = 0; m < count; m++) {
      const at = (held * count + m) * 3;
      if (cloud.points[at] !== cloud.points[at]) continue;
      point.fromArray(cloud.points, at).applyMatrix4(this.moved.matrixWorld).project(this.camera);
      out[m * 2] = ((point.x + 1) / 2) * this.size.width;
      out[m * 2 + 1] = ((1 - point.y) / 2) * this.size.height;
    }
    return out;
  }

  render(width: number, height: number) {
    if (!this.canvas.fit(width, height, this.camera)) return;
    this.size = { width, height };
    this.canvas.renderer.render(this.scene, this.camera);
  }

  dispose() {
    this.head.clear();
    for (const made of [...Object.values(this.clouds), this.trails]) {
      made.geometry.dispose();
      const material = made.material as THREE.PointsMaterial;
      material.map?.dispose();
      material.dispose();
    }
    this.controls.dispose();
    this.canvas.renderer.dispose();
  }
}

function put(geometry: THREE.BufferGeometry, points: number[], colours: number[]) {
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
  geometry.setAttribute("color", new THREE.Float32BufferAttribute(colours, 3));
}

function dots(map: THREE.Texture, size: number): THREE.Points {
  const made = new THREE.Points(
    new THREE.BufferGeometry(),
    new THREE.PointsMaterial({
      size,
      map,
      vertexColors: true,
      sizeAttenuation: false,
      transparent: true,
      depthTest: false,
      toneMapped: false,
    }),
  );
  made.frustumCulled = false;
  made.renderOrder = 2;
  return made;
}

function drawn(draw: (c: CanvasRenderingContext2D) => void): THREE.Texture {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 64;
  const c = canvas.getContext("2d")!;
  c.translate(32, 32);
  draw(c);
  const made = new THREE.CanvasTexture(canvas);
  made.colorSpace = THREE.SRGBColorSpace;
  return made;
}

const disc = () =>
  drawn((c) => {
    c.fillStyle = "#0c1613";
    c.beginPath();
    c.arc(0, 0, 30, 0, 7);
    c.fill();
    c.fillStyle = "#fff";
    c.beginPath();
    c.arc(0, 0, 22, 0, 7);
    c.fill();
  });

/** A single ring for a marker without a place, a double one for the chosen marker. */
const ring = (double: boolean) =>
  drawn((c) => {
    c.strokeStyle = "#fff";
    c.lineWidth = double ? 3 : 12;
    for (const radius of double ? [28, 21] : [20]) {
      c.beginPath();
      c.arc(0, 0, radius, 0, 7);
      c.stroke();
    }
  });
