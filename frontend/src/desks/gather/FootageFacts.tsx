import { Text } from "@chakra-ui/react";
import { Fact } from "../../drawer/parts";

export type FootageInfo = {
  seconds: number;
  frames: number;
  rate: string;
  width: number;
  height: number;
  codec: string;
  sound: boolean;
  timecode: string;
  notes: string[];
};

/** What was found in a clip. */
export function FootageFacts({ info }: { info: FootageInfo }) {
  return (
    <>
      <Fact name="Pictures">
        {info.frames} over {info.seconds.toFixed(2)} s at {info.rate} fps
      </Fact>
      <Fact name="Size">
        {info.width} × {info.height}, {info.codec}
      </Fact>
      <Fact name="Sound">{info.sound ? "in the clip" : "none"}</Fact>
      {info.timecode && <Fact name="Timecode">{info.timecode}</Fact>}
      {info.notes.map((note) => (
        <Text key={note} fontSize="sm" color="accent">
          {note}
        </Text>
      ))}
    </>
  );
}
