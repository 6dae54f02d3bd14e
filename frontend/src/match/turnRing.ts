// The ring about a joint that turns its rest about the way one looks.
import { Euler, MathUtils, Quaternion, Vector3 } from "three";
import type { Look } from "./matchModel";

/** Degrees of a point about a centre, clockwise as on the screen. */
export const angleAt = (centre: { x: number; y: number }, x: number, y: number): number =>
  MathUtils.radToDeg(Math.atan2(y - centre.y, x - centre.x));

/** Degrees about left, up and ahead after a turn by degrees, clockwise on the screen, about the way one looks. */
export function turnedInView(degrees: readonly number[], look: Pick<Look, "yaw" | "pitch">, by: number): number[] {
  const [x = 0, y = 0, z = 0] = degrees.map(MathUtils.degToRad);
  const before = new Quaternion().setFromEuler(new Euler(x, y, z, "YXZ"));
  // Toward the eye: ahead of the skeleton as it is turned on the screen.
  const eye = new Vector3(0, 0, 1)
    .applyAxisAngle(new Vector3(1, 0, 0), -MathUtils.degToRad(look.pitch))
    .applyAxisAngle(new Vector3(0, 1, 0), -MathUtils.degToRad(look.yaw));
  const turn = new Quaternion().setFromAxisAngle(eye, -MathUtils.degToRad(by));
  const after = new Euler().setFromQuaternion(turn.multiply(before), "YXZ");
  return [after.x, after.y, after.z].map((v) => Math.round(MathUtils.radToDeg(v) * 10) / 10 || 0);
}
