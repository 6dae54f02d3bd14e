// The character in three.js; knows nothing of React.
import * as THREE from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import type { Body } from "../workspace/workspace";
import { SceneCanvas } from "./sceneCanvas";

type Morph = { mesh: THREE.Mesh; node: string; names: string[] };

/** Gives back what a model holds on the graphics card. */
function drop(model: THREE.Object3D) {
  model.traverse((o) => {
    if (!(o instanceof THREE.Mesh)) return;
    o.geometry.dispose();
    for (const material of [o.material].flat() as THREE.MeshStandardMaterial[]) {
      material.map?.dispose();
      material.dispose();
    }
  });
}

export class CharacterScene {
  readonly scene = new THREE.Scene();
  readonly camera = new THREE.PerspectiveCamera(26, 1, 0.02, 60);
  readonly controls: OrbitControls;
  private readonly drawing: SceneCanvas;
  private readonly key = new THREE.DirectionalLight("#fff0da", 2.5);
  private readonly nodes = new Map<string, THREE.Object3D>();
  private readonly rests = new Map<string, { q: THREE.Quaternion; p: THREE.Vector3 }>();
  private morphs: Morph[] = [];
  private model: THREE.Object3D | null = null;
  private loads = 0;
  private light = { turn: 0.55, lift: 0.75 };
  /** Where the head was when the camera was last moved along. */
  private followed: THREE.Vector3 | null = null;
  framing: "face" | "body" = "face";

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly changed: () => void,
  ) {
    this.drawing = new SceneCanvas(canvas, false);
    this.drawing.renderer.toneMappingExposure = 1.05;
    this.scene.add(this.key, new THREE.HemisphereLight("#d3dfe0", "#57483a", 1.9));
    const rim = new THREE.DirectionalLight("#9cc2d6", 1.5);
    rim.position.set(-1.8, 2.0, -2.2);
    this.scene.add(rim);
    this.setLight(0, 0);
    this.controls = this.drawing.orbit(this.camera, 0.25, 12, changed);
  }

  async load(raw: ArrayBuffer): Promise<string[]> {
    const mine = ++this.loads;
    this.clear();
    const gltf = await new GLTFLoader().parseAsync(raw, "");
    if (mine !== this.loads) {
      drop(gltf.scene); // another was asked for meanwhile
      return [];
    }
    this.model = gltf.scene;
    this.scene.add(gltf.scene);
    const json = gltf.parser.json as { nodes: { name?: string }[]; meshes: { extras?: { targetNames?: string[] } }[] };
    for (const [object, place] of gltf.parser.associations) {
      const index = (place as { nodes?: number }).nodes;
      if (index === undefined || !(object instanceof THREE.Object3D)) continue;
      const name = json.nodes[index]!.name ?? `node ${index}`;
      this.nodes.set(name, object);
      this.rests.set(name, { q: object.quaternion.clone(), p: object.position.clone() });
    }
    for (const [name, object] of this.nodes) {
      object.traverse((child) => {
        if (!(child instanceof THREE.Mesh)) return;
        child.frustumCulled = false;
        const dictionary = child.morphTargetDictionary;
        if (!dictionary || this.morphs.some((m) => m.mesh === child)) return;
        const names: string[] = [];
        for (const [target, at] of Object.entries(dictionary)) names[at] = target;
        this.morphs.push({ mesh: child, node: name, names });
      });
    }
    this.frame(this.framing);
    return [...new Set(this.morphs.flatMap((m) => m.names))];
  }

  clear() {
    if (this.model) {
      this.scene.remove(this.model);
      drop(this.model);
    }
    this.model = null;
    this.morphs = [];
    this.nodes.clear();
    this.rests.clear();
  }

  setBackground(colour: string) {
    this.scene.background = new THREE.Color(colour);
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
    this.framing = what;
    const head = this.headPlace();
    this.followed = head;
    const target = new THREE.Vector3(0, 1.5, 0);
    let distance = 1;
    if (what === "face" && head) {
      // Heads differ in size: the distance between the eyes says how far away to look from.
      const eyes = [...this.nodes]
        .filter(([n]) => /^(.*[:_.])?eye(ball)?[_. ]?(l|r|left|right)$/i.test(n))
        .map(([, o]) => o.getWorldPosition(new THREE.Vector3()));
      const size = eyes.length === 2 ? Math.min(Math.max(eyes[0]!.distanceTo(eyes[1]!) / 0.062, 0.3), 5) : 1;
      if (eyes.length === 2)
        target
          .copy(eyes[0]!)
          .lerp(eyes[1]!, 0.5)
          .add(new THREE.Vector3(0, 0.014 * size, -0.02 * size));
      else target.copy(head).add(new THREE.Vector3(0, 0.065, 0.05));
      distance = 0.84 * size;
    } else if (this.model) {
      const box = new THREE.Box3().setFromObject(this.model, false);
      const size = box.getSize(new THREE.Vector3());
      box.getCenter(target);
      if (head) target.set(head.x, size.y * 0.5, head.z);
      distance = Math.max(size.y, 0.2) * 2.55;
    }
    this.controls.target.copy(target);
    this.camera.position.set(target.x + distance * 0.34, target.y + distance * 0.03, target.z + distance * 0.94);
    this.controls.update();
    this.changed();
  }

  /** Poses the character as in one frame of the take; `tried` weights by hand win. */
  pose(body: Body | null, frame: number, tried: Record<string, number>) {
    for (const { mesh, node, names } of this.morphs) {
      const influences = mesh.morphTargetInfluences!;
      names.forEach((name, i) => {
        const column = body ? body.targets.indexOf(name) : -1;
        const still = body?.still.some(([m, t]) => m === node && t === name) ?? false;
        const count = body?.weights.shape[1] ?? 0;
        influences[i] = tried[name] ?? (column >= 0 && !still ? body!.weights.data[frame * count + column]! : 0);
      });
    }
    // From rest each time: a joint that the take no longer moves does not keep its last pose.
    for (const [name, rest] of this.rests) {
      this.nodes.get(name)!.quaternion.copy(rest.q);
      this.nodes.get(name)!.position.copy(rest.p);
    }
    if (!body) return;
    const count = body.joints.length;
    body.joints.forEach((joint, i) => {
      const at = (frame * count + i) * 4;
      const data = body.motion.data;
      this.nodes.get(joint)?.quaternion.set(data[at]!, data[at + 1]!, data[at + 2]!, data[at + 3]!);
    });
    body.shifted.forEach((joint, i) => {
      const rest = this.rests.get(joint);
      const at = (frame * body.shifted.length + i) * 3;
      const data = body.shifts!.data;
      if (rest)
        this.nodes.get(joint)!.position.set(rest.p.x + data[at]!, rest.p.y + data[at + 1]!, rest.p.z + data[at + 2]!);
    });
    if (body.rootJoint && body.root) {
      const rest = this.rests.get(body.rootJoint);
      const at = frame * 3;
      if (rest)
        this.nodes
          .get(body.rootJoint)!
          .position.set(
            rest.p.x + body.root.data[at]!,
            rest.p.y + body.root.data[at + 1]!,
            rest.p.z + body.root.data[at + 2]!,
          );
    }
  }

  /** Moves the camera along with the head, so that a walking face stays in sight, also from take to take. */
  follow() {
    const at = this.headPlace();
    if (at && this.followed) {
      const by = at.clone().sub(this.followed);
      if (this.framing === "body") by.y = 0;
      this.controls.target.add(by);
      this.camera.position.add(by);
    }
    this.followed = at;
  }

  private headPlace(): THREE.Vector3 | null {
    const head = [...this.nodes].find(([name]) => /(^|[:_.])head$/i.test(name))?.[1];
    if (!head) return null;
    this.model!.updateMatrixWorld(true);
    return head.getWorldPosition(new THREE.Vector3());
  }

  zoom(by: number) {
    this.camera.zoom = by;
    this.camera.updateProjectionMatrix();
  }

  /** Turns one joint from its rest by degrees about its own x, y or z. */
  turnJoint(name: string, axis: [number, number, number], degrees: number) {
    const rest = this.rests.get(name);
    const turn = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(...axis), THREE.MathUtils.degToRad(degrees));
    if (rest) this.nodes.get(name)!.quaternion.copy(rest.q).multiply(turn);
  }

  resize(width = this.canvas.parentElement!.clientWidth, height = this.canvas.parentElement!.clientHeight) {
    this.drawing.fit(width, height, this.camera);
  }

  render() {
    this.drawing.renderer.render(this.scene, this.camera);
  }

  dispose() {
    this.loads++;
    this.clear();
    this.controls.dispose();
    this.drawing.renderer.dispose();
  }
}
