// One frame loop for everything that draws: what is marked dirty is drawn once in the next frame.
type Painter = { draw: () => void; dirty: boolean };

const painters = new Set<Painter>();
let asked = 0;
/** Milliseconds of our own script in each drawn frame; read by the benchmark. */
export const drawTimes: number[] = [];

function run() {
  asked = 0;
  const began = performance.now();
  let drew = false;
  for (const painter of painters) {
    if (!painter.dirty) continue;
    painter.dirty = false;
    painter.draw();
    drew = true;
  }
  if (drew) {
    drawTimes.push(performance.now() - began);
    if (drawTimes.length > 2000) drawTimes.shift();
  }
}

export function addPainter(draw: () => void): { invalidate: () => void; remove: () => void } {
  const painter: Painter = { draw, dirty: true };
  painters.add(painter);
  const invalidate = () => {
    painter.dirty = true;
    if (!asked) asked = requestAnimationFrame(run);
  };
  invalidate();
  return { invalidate, remove: () => painters.delete(painter) };
}
