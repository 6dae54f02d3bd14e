// A line between two parts of the page that is dragged, or moved by arrow keys; where it lies is remembered on this machine.
import { Box } from "@chakra-ui/react";
import { useState } from "react";

/** Where a splitter may lie, in pixels of the part that it sizes. */
export type Bounds = { least: number; most: number };
export const within = (size: number, { least, most }: Bounds): number =>
  Math.round(Math.min(Math.max(size, least), Math.max(most, least)));

/** A remembered size; `usual` until somebody moved the splitter. */
export function useSize(name: string, usual: number): [number, (size: number) => void, () => void] {
  const key = `dynaface.size.${name}`;
  const [, drawAgain] = useState(0);
  const changed = (next: number | null) => {
    if (next === null) localStorage.removeItem(key);
    else localStorage.setItem(key, String(next));
    drawAgain((n) => n + 1);
  };
  return [Number(localStorage.getItem(key)) || usual, changed, () => changed(null)];
}

type Props = {
  label: string;
  /** Which way it moves; the part that it sizes lies below or to the right of it. */
  way: "row" | "column";
  size: number;
  bounds: Bounds;
  onSize: (size: number) => void;
  onReset: () => void;
};

export function Splitter({ label, way, size, bounds, onSize, onReset }: Props) {
  const upright = way === "row";
  const begin = (event: React.PointerEvent<HTMLDivElement>) => {
    const element = event.currentTarget;
    const from = upright ? event.clientX : event.clientY;
    element.setPointerCapture(event.pointerId);
    const move = (e: PointerEvent) => onSize(within(size + from - (upright ? e.clientX : e.clientY), bounds));
    element.addEventListener("pointermove", move);
    element.addEventListener("lostpointercapture", () => element.removeEventListener("pointermove", move), {
      once: true,
    });
  };
  const press = (event: React.KeyboardEvent) => {
    const [more, less] = upright ? ["ArrowLeft", "ArrowRight"] : ["ArrowUp", "ArrowDown"];
    if (event.key !== more && event.key !== less) return;
    event.preventDefault();
    event.stopPropagation();
    onSize(within(size + (event.key === more ? 16 : -16), bounds));
  };
  return (
    <Box
      role="separator"
      tabIndex={0}
      aria-label={label}
      aria-orientation={upright ? "vertical" : "horizontal"}
      aria-valuenow={size}
      aria-valuemin={bounds.least}
      aria-valuemax={Math.max(bounds.most, bounds.least)}
      title={`${label}: drag, or double-click for the usual size`}
      flexShrink={0}
      w={upright ? "5px" : undefined}
      h={upright ? undefined : "5px"}
      bg="line"
      cursor={upright ? "col-resize" : "row-resize"}
      touchAction="none"
      _hover={{ bg: "accent" }}
      _focusVisible={{ bg: "accent", outline: "none" }}
      onPointerDown={begin}
      onKeyDown={press}
      onDoubleClick={onReset}
    />
  );
}
