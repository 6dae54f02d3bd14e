"""Where a camera's landmarks are found: `./dev run .venv/bin/python -m bench.page_landmarks --package FOLDER`.

FOLDER: the landmark library's package for pages (`npm pack @mediapipe/tasks-vision`, unpacked), which the product does not ship. The same pictures
go, in one real browser, to the process of feeds over its WebSocket, and into the library's WebAssembly in the page itself. Printed for
each: how long until the first picture is looked at, loading included; milliseconds from a picture to its landmarks; bytes that a page
loads for it; how far apart the landmarks of both are.
"""

import argparse
import asyncio
import threading
from itertools import islice
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from aiohttp import web

from bench.live import LIVE, feeds, set_ports
from bench.page import bench_work, drawing_page
from dynaface.assets import ASSETS
from dynaface.formats.entries import video
from dynaface.formats.head_file import landmark_model
from dynaface.services.feed.tickets import make_ticket
from dynaface.settings import from_environment

PORT, WIDTH, PICTURES = 8496, 480, 150
PAGE = """
<script type="module">
const pictures = await Promise.all([...Array(COUNT).keys()].map(async (n) =>
  createImageBitmap(await (await fetch(`/picture/${n}`)).blob())));
const sheet = document.createElement("canvas");
[sheet.width, sheet.height] = [pictures[0].width, pictures[0].height];
const pen = sheet.getContext("2d", { willReadFrequently: true });
const run = async (look) => {
  const began = performance.now(), times = [], points = [];
  let first = 0;
  for (const [n, picture] of pictures.entries()) {
    const at = performance.now();
    pen.drawImage(picture, 0, 0);
    points.push(await look(n));
    if (!n) first = performance.now() - began; else times.push(performance.now() - at);
  }
  return { first, times, points };
};
const overSocket = () => {
  let answered, socket;
  const opened = new Promise((done) => {
    socket = new WebSocket("CAMERA");
    socket.onopen = done;
    socket.onmessage = ({ data }) => answered(JSON.parse(data).points);
  });
  return async (n) => {
    await opened;
    const jpeg = await new Promise((done) => sheet.toBlob(done, "image/jpeg", 0.8));
    const raw = new Uint8Array(4 + jpeg.size);
    new DataView(raw.buffer).setUint32(0, n, true);
    raw.set(new Uint8Array(await jpeg.arrayBuffer()), 4);
    return new Promise((done) => { answered = done; socket.send(raw); });
  };
};
const inPage = () => {
  let finder;
  return async (n) => {
    if (!finder) {
      const { FaceLandmarker, FilesetResolver } = await import("/package/vision_bundle.mjs");
      finder = await FaceLandmarker.createFromOptions(await FilesetResolver.forVisionTasks("/package/wasm"), {
        baseOptions: { modelAssetPath: "/model", delegate: "CPU" }, runningMode: "VIDEO", outputFaceBlendshapes: true });
    }
    const found = finder.detectForVideo(sheet, n * 33 + 1).faceLandmarks[0] ?? [];
    return found.map(({ x, y }) => [x, y]);
  };
};
window.found = { socket: await run(overSocket()), page: await run(inPage()) };
document.title = "done";
</script>
"""


def pictures() -> list[bytes]:
    """JPEGs of the demo's webcam clip, as wide as a page sends them."""
    clip = video.read((ASSETS / "demo/mara_clip.mp4").read_bytes())
    made = []
    for picture in islice(clip.pictures(), PICTURES):
        height = round(picture.shape[0] * WIDTH / picture.shape[1])
        small = cv2.resize(np.asarray(picture), (WIDTH, height), interpolation=cv2.INTER_AREA)
        made.append(cv2.imencode(".jpg", cv2.cvtColor(small, cv2.COLOR_RGB2BGR))[1].tobytes())
    return made


class Pages:
    """Serves the page with its pictures, the package and the model; loaded: bytes that were asked for of each of the last two."""

    def __init__(self, package: Path, camera: str) -> None:
        self._package, self._jpegs = package.resolve(), pictures()
        self._html = PAGE.replace("COUNT", str(len(self._jpegs))).replace("CAMERA", camera)
        self.loaded = 0
        threading.Thread(target=self._run, daemon=True).start()

    def _run(self) -> None:
        app = web.Application()
        app.router.add_get("/", lambda _: self._answer(self._html.encode(), "text/html", count=False))
        app.router.add_get("/picture/{n}", self._picture)
        app.router.add_get("/model", lambda _: self._answer(landmark_model(), "application/octet-stream"))
        app.router.add_get("/package/{file:.+}", self._file)
        web.run_app(app, host="127.0.0.1", port=PORT, print=None, handle_signals=False, loop=asyncio.new_event_loop())

    async def _answer(self, body: bytes, kind: str, count: bool = True) -> web.Response:
        self.loaded += len(body) if count else 0
        return web.Response(body=body, content_type=kind)

    async def _picture(self, request: web.Request) -> web.Response:
        return await self._answer(self._jpegs[int(request.match_info["n"])], "image/jpeg", count=False)

    async def _file(self, request: web.Request) -> web.Response:
        file = (self._package / request.match_info["file"]).resolve()
        if not file.is_relative_to(self._package) or not file.is_file():
            raise web.HTTPNotFound
        kinds = {".mjs": "text/javascript", ".js": "text/javascript", ".wasm": "application/wasm"}
        return await self._answer(file.read_bytes(), kinds.get(file.suffix, "application/octet-stream"))


def say(name: str, found: dict[str, Any], loaded: int) -> None:
    """One line of the table."""
    times = np.array(found["times"])
    seen = sum(len(p) > 0 for p in found["points"])
    print(f"{name:>34}: first after {found['first'] / 1000:.2f} s, then median {np.median(times):.1f} ms, 95% {np.percentile(times, 95):.1f} ms, "
          f"{seen} of {len(found['points'])} seen, {loaded / 1e6:.1f} MB loaded")  # fmt: skip


def main() -> None:
    """Prints both."""
    parser = argparse.ArgumentParser()
    parser.add_argument(
        "--package", type=Path, required=True, help="the landmark library's package for pages, unpacked"
    )
    package = parser.parse_args().package
    set_ports()
    work, production = bench_work()
    ticket = make_ticket(work, from_environment().secret, production)
    with feeds(), drawing_page("") as page:
        served = Pages(package, f"ws://127.0.0.1:{LIVE}/camera?ticket={ticket}")
        page.goto(f"http://127.0.0.1:{PORT}/")
        page.wait_for_function("document.title === 'done'", timeout=120_000)
        found = page.evaluate("found")
    say("process of feeds, over WebSocket", found["socket"], 0)
    say("library's WebAssembly in the page", found["page"], served.loaded)
    both = [(a, b[:478]) for a, b in zip(found["socket"]["points"], found["page"]["points"], strict=True) if a and b]
    apart = [np.linalg.norm((np.array(a)[:478] - np.array(b)) * WIDTH, axis=1).mean() for a, b in both]
    print(f"landmarks of both: {np.mean(apart):.2f} pixels apart at {WIDTH} wide")


if __name__ == "__main__":
    main()
