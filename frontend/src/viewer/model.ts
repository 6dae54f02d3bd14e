// A character's model in three.js: its meshes with targets and its joints, posed frame by frame.
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import type { Body } from "../workspace/workspace";

type Morph = { mesh: THREE.Mesh; node: string; names: string[] };

/** Where a take's weight of each target of a mesh stands, -1 where it has none or the target is held still there. Pure. */
export function columnsOf(node: string, names: string[], body: Pick<Body, "targets" | "still">): number[] {
  const places = new Map(body.targets.map((target, column) => [target, column]));
  const still = new Set(body.still.filter(([mesh]) => mesh === node).map(([, target]) => target));
  return names.map((name) => (still.has(name) ? -1 : (places.get(name) ?? -1)));
}

/** Gives back what a model holds on the graphics card. */
export function drop(model: THREE.Object3D) {
  model.traverse((o) => {
    if (!(o instanceof THREE.Mesh)) return;
    o.geometry.dispose();
    for (const material of [o.material].flat() as THREE.MeshStandardMaterial[]) {
      material.map?.dispose();
      material.dispose();
    }
  });
}

/** node: of the mesh; rest: in the character's own space; at: in the scene; axes: where its x, y, z at rest show in the scene. */
export type Picked = {
  node: string;
  rest: THREE.Vector3;
  at: THREE.Vector3;
  axes: [THREE.Vector3, THREE.Vector3, THREE.Vector3];
};
const SMALL = 1e-3;

export class CharacterModel {
  /** What is put into a scene; where it stands and which way it looks is the scene's. */
  readonly place = new THREE.Group();
  private readonly nodes = new Map<string, THREE.Object3D>();
  private readonly rests = new Map<string, { q: THREE.Quaternion; p: THREE.Vector3 }>();
  private morphs: Morph[] = [];
  private model: THREE.Object3D | null = null;
  /** Its meshes with the names of their nodes. */
  private readonly meshes = new Map<THREE.Mesh, string>();
  private loads = 0;
  private wired: (Pick<Body, "targets" | "still"> & { columns: number[][] }) | null = null;

  async load(raw: ArrayBuffer): Promise<string[]> {
    const mine = ++this.loads;
    this.clear();
    const gltf = await new GLTFLoader().parseAsync(raw, "");
    if (mine !== this.loads) {
      drop(gltf.scene); // another was asked for meanwhile
      return [];
    }
    this.model = gltf.scene;
    this.place.add(gltf.scene);
    const json = gltf.parser.json as { nodes: { name?: string }[]; meshes: { extras?: { targetNames?: string[] } }[] };
    for (const [object, place] of gltf.parser.associations) {
      // What the loader makes by itself, as a material where there is none, belongs to no place of the document.
      const index = (place as { nodes?: number } | undefined)?.nodes;
      if (index === undefined || !(object instanceof THREE.Object3D)) continue;
      const name = json.nodes[index]!.name ?? `node ${index}`;
      this.nodes.set(name, object);
      this.rests.set(name, { q: object.quaternion.clone(), p: object.position.clone() });
    }
    for (const [name, object] of this.nodes) {
      object.traverse((child) => {
        if (!(child instanceof THREE.Mesh)) return;
        child.frustumCulled = false;
        // The sphere in which a ray looks for it would stay where the body first was.
        if (child instanceof THREE.SkinnedMesh) child.boundingSphere = new THREE.Sphere(new THREE.Vector3(), Infinity);
        if (!this.meshes.has(child)) this.meshes.set(child, name);
        const dictionary = child.morphTargetDictionary;
        if (!dictionary || this.morphs.some((m) => m.mesh === child)) return;
        const names: string[] = [];
        for (const [target, at] of Object.entries(dictionary)) names[at] = target;
        this.morphs.push({ mesh: child, node: name, names });
      });
    }
    return [...new Set(this.morphs.flatMap((m) => m.names))];
  }

  clear() {
    if (this.model) {
      this.place.remove(this.model);
      drop(this.model);
    }
    this.model = null;
    this.morphs = [];
    this.wired = null;
    this.meshes.clear();
    this.nodes.clear();
    this.rests.clear();
  }

  /** Poses the character as in one frame of the take; `tried` weights by hand win. */
  pose(body: Body | null, frame: number, tried: Record<string, number>) {
    const columns = body ? this.columns(body) : [];
    const first = frame * (body?.weights.shape[1] ?? 0);
    this.morphs.forEach(({ mesh, names }, m) => {
      const influences = mesh.morphTargetInfluences!;
      names.forEach((name, i) => {
        const column = columns[m]?.[i] ?? -1;
        influences[i] = tried[name] ?? (column >= 0 ? body!.weights.data[first + column]! : 0);
      });
    });
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

  /** Of each mesh, looked up once for all frames with the same targets. */
  private columns(body: Body): number[][] {
    if (this.wired?.targets !== body.targets || this.wired.still !== body.still) {
      const found = this.morphs.map(({ node, names }) => columnsOf(node, names, body));
      this.wired = { targets: body.targets, still: body.still, columns: found };
    }
    return this.wired.columns;
  }

  /** Where the head is, in the scene. */
  headPlace(): THREE.Vector3 | null {
    const nodes = [...this.nodes];
    const called = (pattern: RegExp) => nodes.find(([name]) => pattern.test(name))?.[1];
    const head = called(/(^|[:_.])head$/i) ?? called(/head(?!.*(end|top|tip))/i);
    if (!head) return null;
    this.model!.updateMatrixWorld(true);
    return head.getWorldPosition(new THREE.Vector3());
  }

  /** The middle between the eyes, and how far they are apart against a usual face; null where it has no two eyes. */
  eyes(): { middle: THREE.Vector3; size: number } | null {
    this.place.updateMatrixWorld(true);
    const eyes = [...this.nodes]
      .filter(([n]) => /^(.*[:_.])?eye(ball)?[_. ]?(l|r|left|right)$/i.test(n))
      .map(([, o]) => o.getWorldPosition(new THREE.Vector3()));
    if (eyes.length !== 2) return null;
    const size = Math.min(Math.max(eyes[0]!.distanceTo(eyes[1]!) / 0.062, 0.3), 5);
    return { middle: eyes[0]!.clone().lerp(eyes[1]!, 0.5), size };
  }

  /** The vertex of its meshes that a ray meets first: where it is at rest, where it is now, and how a small move of it at rest shows. */
  pick(ray: THREE.Raycaster): Picked | null {
    const hit = ray.intersectObjects([...this.meshes.keys()], false)[0];
    if (!hit?.face) return null;
    const mesh = hit.object as THREE.Mesh;
    const now = (index: number) => mesh.getVertexPosition(index, new THREE.Vector3()).applyMatrix4(mesh.matrixWorld);
    const corners = [hit.face.a, hit.face.b, hit.face.c].map((index) => ({ index, at: now(index) }));
    const { index, at } = corners.sort((a, b) => a.at.distanceTo(hit.point) - b.at.distanceTo(hit.point))[0]!;
    const rest = new THREE.Vector3().fromBufferAttribute(mesh.geometry.attributes.position!, index);
    const posed = (v: THREE.Vector3) => {
      if (mesh instanceof THREE.SkinnedMesh) mesh.applyBoneTransform(index, v);
      return v.applyMatrix4(mesh.matrixWorld);
    };
    const from = posed(rest.clone());
    const axes = [0, 1, 2].map((axis) =>
      posed(rest.clone().setComponent(axis, rest.getComponent(axis) + SMALL))
        .sub(from)
        .divideScalar(SMALL),
    );
    return { node: this.meshes.get(mesh)!, rest, at, axes: axes as [THREE.Vector3, THREE.Vector3, THREE.Vector3] };
  }

  /** The box around it, or null where nothing is loaded. */
  box(): THREE.Box3 | null {
    return this.model && new THREE.Box3().setFromObject(this.model, false);
  }

  /** Turns one joint from its rest by degrees about its own x, y or z. */
  turnJoint(name: string, axis: [number, number, number], degrees: number) {
    const rest = this.rests.get(name);
    const turn = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(...axis), THREE.MathUtils.degToRad(degrees));
    if (rest) this.nodes.get(name)!.quaternion.copy(rest.q).multiply(turn);
  }

  dispose() {
    this.loads++;
    this.clear();
  }
}
