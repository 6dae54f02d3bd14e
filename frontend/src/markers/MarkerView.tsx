// Markers with their trails beside the head that they move; a click chooses a marker.
import { Box, HStack, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { api } from "../api/client";
import { useCatalogue } from "../shared/catalogue";
import { isLight } from "../shared/colourMode";
import { colourOf } from "../shared/regions";
import { clock } from "../playback/clock";
import { addPainter } from "../timekit/frameLoop";
import { headModel, weightsAt } from "../viewer/headModel";
import { sessionState, onSession } from "../workspace/workspace";
import { useCloud } from "./cloud";
import { nearest } from "./geometry";
import { useLayout, useMarkers } from "./layouts";
import { MarkerScene, type Look } from "./markerScene";

const REACH = 14; // pixels within which a click chooses a marker
const UPS = ["y", "z", "x"] as const;

export function MarkerView() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scene = useRef<MarkerScene | null>(null);
  const redraw = useRef<() => void>(() => undefined);
  const [failed, setFailed] = useState(false);
  const [up, setUp] = useState<(typeof UPS)[number]>("y");
  const [over, setOver] = useState<string | null>(null);
  const { shapes } = useCatalogue();
  const { body, study, chart } = useLayout();
  const { cloud, solved } = useCloud(study, up);
  const { selected, still } = useMarkers();
  const model =
    useQuery({
      queryKey: ["head", solved],
      queryFn: async () => headModel(await api.head(solved!)),
      enabled: !!solved,
      staleTime: Infinity,
      retry: false,
    }).data ?? null;
  const labels = cloud?.labels;
  const looks = useMemo<Look[]>(() => {
    const region = Object.fromEntries(chart.map((p) => [p.name, p.region]));
    return (labels ?? []).map((label) => {
      const place = body?.places[label];
      return {
        colour: place ? colourOf(region[place] ?? "head", isLight()) : "#d8d2c4",
        placed: !!place && !body?.off[label],
      };
    });
  }, [labels, body, chart]);

  useEffect(() => {
    const element = canvas.current!;
    let made: MarkerScene;
    const weights = new Float32Array(shapes.length);
    const painter = addPainter(() => {
      const { curves } = sessionState();
      const frame = Math.min(clock.frame, (curves?.frames ?? Infinity) - 1);
      weightsAt(curves, shapes, frame, weights);
      made.draw(frame, weights, useMarkers.getState().still);
      made.render(element.parentElement!.clientWidth, element.parentElement!.clientHeight);
      element.dataset.frame = String(frame);
    });
    try {
      made = new MarkerScene(element, painter.invalidate);
    } catch {
      painter.remove();
      setFailed(true);
      return;
    }
    scene.current = made;
    redraw.current = painter.invalidate;
    const watcher = new ResizeObserver(painter.invalidate);
    watcher.observe(element.parentElement!);
    const off = [
      clock.onMove(painter.invalidate),
      onSession(painter.invalidate),
      useMarkers.subscribe(painter.invalidate),
    ];
    return () => {
      off.forEach((f) => f());
      watcher.disconnect();
      painter.remove();
      made.dispose();
      scene.current = null;
    };
  }, [shapes]);

  useEffect(() => {
    scene.current?.load(cloud, model);
    redraw.current();
  }, [cloud, model]);
  useEffect(() => {
    scene.current?.setLooks(looks, labels?.indexOf(selected ?? "") ?? -1);
    redraw.current();
  }, [looks, labels, selected]);

  const at = (e: React.MouseEvent) => {
    const box = canvas.current!.getBoundingClientRect();
    const found = nearest(
      scene.current?.places(clock.frame) ?? new Float32Array(0),
      e.clientX - box.left,
      e.clientY - box.top,
      REACH,
    );
    return found < 0 ? null : labels![found]!;
  };
  const pressed = useRef({ x: 0, y: 0 });
  const shown = over ?? selected;
  const place = shown && body?.places[shown];
  const names = (labels ?? []).filter((l) => body?.places[l]).length;
  return (
    <Box position="absolute" inset="0" bg="bg.ground" data-testid="marker-view">
      <canvas
        ref={canvas}
        style={{ position: "absolute", width: "100%", height: "100%", cursor: over ? "pointer" : "grab" }}
        data-markers={labels?.length ?? 0}
        data-placed={names}
        data-head={!!model}
        aria-label="Markers in space"
        onPointerDown={(e) => {
          pressed.current = { x: e.clientX, y: e.clientY };
        }}
        onPointerMove={(e) => {
          if (!e.buttons) setOver(at(e));
        }}
        onPointerLeave={() => setOver(null)}
        onClick={(e) => {
          if (Math.hypot(e.clientX - pressed.current.x, e.clientY - pressed.current.y) < 4)
            useMarkers.setState({ selected: at(e) });
        }}
      />
      <Text position="absolute" top="8px" left="12px" fontSize="sm" color="dim">
        {solved ? "Markers of the solve" : "Markers as they came"}
        {labels ? `, ${labels.length}` : ""}
      </Text>
      {shown && (
        <Text position="absolute" top="28px" left="12px" fontSize="sm" data-testid="marker-name">
          <b>{shown}</b>
          {place ? `, ${place}` : ", on no place"}
        </Text>
      )}
      <HStack position="absolute" top="6px" right="8px" gap="1">
        {(["right", "front", "left"] as const).map((side) => (
          <Corner
            key={side}
            onClick={() => {
              scene.current?.look(side);
              redraw.current();
            }}
          >
            {side}
          </Corner>
        ))}
        {solved ? (
          <Corner
            on={still}
            title="Show the face with the head's motion taken out"
            onClick={() => useMarkers.setState({ still: !still })}
          >
            head still
          </Corner>
        ) : (
          !study && (
            <Corner title="The axis of the stage that points up" onClick={() => setUp(UPS[(UPS.indexOf(up) + 1) % 3]!)}>
              {up} is up
            </Corner>
          )
        )}
      </HStack>
      {!cloud && !failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          Reading the markers…
        </Text>
      )}
      {failed && (
        <Text position="absolute" top="45%" left="0" right="0" textAlign="center" color="dim">
          This browser draws no 3D. Turn on WebGL to see the markers.
        </Text>
      )}
    </Box>
  );
}

function Corner({
  on,
  title,
  onClick,
  children,
}: {
  on?: boolean;
  title?: string;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <Box
      as="button"
      px="1.5"
      py="0.5"
      fontSize="xs"
      borderRadius="2px"
      borderWidth="1px"
      borderColor={on ? "accent" : "line"}
      bg="bg.panel"
      color={on ? "ink" : "dim"}
      cursor="pointer"
      title={title}
      aria-pressed={on}
      onClick={onClick}
    >
      {children}
    </Box>
  );
}
