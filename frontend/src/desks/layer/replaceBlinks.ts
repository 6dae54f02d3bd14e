// One action: the captured blinks are taken out and made anew, in a layer of their own.
import { freshId, pathOf } from "../../api/changes";
import { activeShot } from "../../workspace/workspace";
import { chooseSpan } from "./layerState";

export async function replaceBlinks() {
  const shot = activeShot();
  if (!shot) return;
  chooseSpan(null);
  await shot.addLayer("blinks", "add");
  const layer = shot.layer;
  if (!layer) return;
  const value = { maker: "blinks", rank: 1, captured: "replace" };
  await shot.edit(layer.id, "replace the captured blinks", [{ path: pathOf("makers", freshId("m")), value }]);
}
