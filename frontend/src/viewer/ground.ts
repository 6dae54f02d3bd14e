// The ground on which bodies are seen, in squares of half a metre.
import * as THREE from "three";

const METRES = 12;
const SQUARE = 0.5;

/** Lines of one square each: long ones that go on behind the camera are not drawn everywhere. */
export function groundLines(): THREE.LineSegments<THREE.BufferGeometry, THREE.LineBasicMaterial> {
  const count = METRES / SQUARE;
  const along = (i: number) => i * SQUARE - METRES / 2;
  const points: number[] = [];
  for (let i = 0; i <= count; i++) {
    for (let k = 0; k < count; k++) {
      points.push(along(i), 0, along(k), along(i), 0, along(k + 1));
      points.push(along(k), 0, along(i), along(k + 1), 0, along(i));
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
  const material = new THREE.LineBasicMaterial({ transparent: true, opacity: 0.45, depthWrite: false });
  return new THREE.LineSegments(geometry, material);
}
