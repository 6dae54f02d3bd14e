// The plain head as a mesh in three.js: painted clay with eyes, moved by weights and a pose; knows nothing of React.
import * as THREE from "three";
import { normals, poseAt, shaped, type HeadModel } from "./headModel";

const SKIN = 0;
const EYES = 1;
const NECK = "-0.136"; // metres below the eyes: the neck ends here, before its ragged edge
const COLOURS = ["#b49c86", "#e9e6dc", "#2a211c", "#e4ddcc", "#9c5a52"];

export class HeadMesh {
  readonly group = new THREE.Group();
  private model: HeadModel | null = null;
  private now = new Float32Array(0);
  private up = new Float32Array(0);
  private skin: THREE.BufferGeometry | null = null;

  load(model: HeadModel) {
    this.clear();
    this.model = model;
    this.now = new Float32Array(model.points.length);
    this.up = new Float32Array(model.points.length);
    const corners = model.corners.length;
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(new Float32Array(corners * 3), 3));
    geometry.setAttribute("normal", new THREE.BufferAttribute(new Float32Array(corners * 3), 3));
    geometry.setAttribute("uv", new THREE.BufferAttribute(model.uv, 2));
    geometry.setAttribute("ahead", new THREE.BufferAttribute(lookingAhead(model), 3));
    // Triangles by part, each with a material of its own.
    const index: number[] = [];
    COLOURS.forEach((_, part) => {
      const from = index.length;
      model.part.forEach((p, t) => {
        if (p === part) index.push(model.triangles[t * 3]!, model.triangles[t * 3 + 1]!, model.triangles[t * 3 + 2]!);
      });
      if (index.length > from) geometry.addGroup(from, index.length - from, part);
    });
    geometry.setIndex(index);
    const materials = COLOURS.map((colour, part) => material(part, colour, model));
    const mesh = new THREE.Mesh(geometry, materials);
    mesh.frustumCulled = false;
    this.skin = geometry;
    this.group.add(mesh);
  }

  clear() {
    for (const child of [...this.group.children]) {
      const mesh = child as THREE.Mesh;
      mesh.geometry.dispose();
      for (const m of [mesh.material].flat() as THREE.MeshStandardMaterial[]) {
        m.map?.dispose();
        m.dispose();
      }
      this.group.remove(child);
    }
    this.skin = null;
  }

  /** Moves the head as in a frame of the clip's solve. */
  pose(weights: ArrayLike<number>, frame: number) {
    if (!this.model || !this.skin) return;
    shaped(this.model, weights, this.now);
    normals(this.now, this.model, this.up);
    const { corners } = this.model;
    const position = this.skin.getAttribute("position") as THREE.BufferAttribute;
    const normal = this.skin.getAttribute("normal") as THREE.BufferAttribute;
    const [p, n] = [position.array, normal.array];
    for (let i = 0; i < corners.length; i++) {
      const from = corners[i]! * 3;
      for (let k = 0; k < 3; k++) {
        p[i * 3 + k] = this.now[from + k]!;
        n[i * 3 + k] = this.up[from + k]!;
      }
    }
    position.needsUpdate = normal.needsUpdate = true;
    const at = poseAt(this.model, frame);
    this.group.quaternion.set(at[0]!, at[1]!, at[2]!, at[3]!);
    this.group.position.set(at[4]!, at[5]!, at[6]!);
  }
}

/** For each corner the direction from its eye's centre at rest: where it looks ahead the iris is. */
function lookingAhead(model: HeadModel): Float32Array {
  const out = new Float32Array(model.corners.length * 3);
  model.corners.forEach((vertex, i) => {
    const eye = model.points[vertex * 3]! > 0 ? 0 : 3;
    for (let k = 0; k < 3; k++) out[i * 3 + k] = model.points[vertex * 3 + k]! - model.eyes[eye + k]!;
  });
  return out;
}

function material(part: number, colour: string, model: HeadModel): THREE.Material {
  const made = new THREE.MeshStandardMaterial({
    color: colour,
    roughness: part === EYES ? 0.35 : 0.72,
    metalness: 0,
    side: THREE.DoubleSide,
  });
  if (part === SKIN) {
    made.color.set("#ffffff");
    made.map = paint(model, new THREE.Color(colour));
  }
  if (part === SKIN)
    painted(
      made,
      `if (vAhead.y < ${NECK}) discard;\ndiffuseColor.rgb *= smoothstep(${NECK}, ${NECK} + 0.03, vAhead.y);`,
    );
  if (part === EYES) {
    painted(
      made,
      [
        "float off = acos(clamp(normalize(vAhead).z, -1.0, 1.0));",
        "vec3 iris = mix(vec3(0.10, 0.21, 0.20), vec3(0.02, 0.05, 0.05), smoothstep(0.40, 0.50, off));",
        "iris = mix(vec3(0.004), iris, smoothstep(0.19, 0.23, off));",
        "diffuseColor.rgb = mix(iris, diffuseColor.rgb, smoothstep(0.49, 0.55, off));",
      ].join("\n"),
    );
  }
  return made;
}

/** Lets a material's colour depend on where a corner is from its eye at rest. */
function painted(made: THREE.Material, code: string) {
  made.onBeforeCompile = (shader) => {
    shader.vertexShader = shader.vertexShader
      .replace("#include <common>", "#include <common>\nattribute vec3 ahead;\nvarying vec3 vAhead;")
      .replace("#include <begin_vertex>", "#include <begin_vertex>\nvAhead = ahead;");
    shader.fragmentShader = shader.fragmentShader
      .replace("#include <common>", "#include <common>\nvarying vec3 vAhead;")
      .replace("#include <color_fragment>", `#include <color_fragment>\n${code}`);
  };
}

/** Clay with lips and brows. */
function paint(model: HeadModel, clay: THREE.Color): THREE.DataTexture {
  const size = model.paintSize;
  const pixels = new Uint8Array(size * size * 4);
  const lips = new THREE.Color("#9a5f55");
  const brows = new THREE.Color("#4a382d");
  const mixed = new THREE.Color();
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const from = y * size + x;
      mixed
        .copy(clay)
        .lerp(lips, 0.8 * model.paint[from]!)
        .lerp(brows, 0.85 * model.paint[size * size + from]!);
      mixed.convertLinearToSRGB();
      const to = ((size - 1 - y) * size + x) * 4;
      pixels[to] = mixed.r * 255;
      pixels[to + 1] = mixed.g * 255;
      pixels[to + 2] = mixed.b * 255;
      pixels[to + 3] = 255;
    }
  }
  const made = new THREE.DataTexture(pixels, size, size);
  made.colorSpace = THREE.SRGBColorSpace;
  made.magFilter = THREE.LinearFilter;
  made.minFilter = THREE.LinearMipmapLinearFilter;
  made.generateMipmaps = true;
  made.needsUpdate = true;
  return made;
}
