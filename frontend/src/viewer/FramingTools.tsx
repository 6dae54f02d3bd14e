// Looks at faces or at whole bodies.
import { PersonStanding, ScanFace } from "lucide-react";
import { Tool } from "./Tool";

export type Framing = "face" | "body";

/** several: whether more than one is looked at. */
export function FramingTools({
  framing,
  several = false,
  onFrame,
}: {
  framing: Framing;
  several?: boolean;
  onFrame: (what: Framing) => void;
}) {
  return (
    <>
      <Tool
        label={several ? "Frame the faces" : "Frame the face"}
        on={framing === "face"}
        onClick={() => onFrame("face")}
      >
        <ScanFace size={16} />
      </Tool>
      <Tool
        label={several ? "Frame the bodies" : "Frame the body"}
        on={framing === "body"}
        onClick={() => onFrame("body")}
      >
        <PersonStanding size={16} />
      </Tool>
    </>
  );
}
