// One expression taken again before the camera: counted in, recorded for two seconds, kept as a take of its own.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { notify } from "../../shared/notices";
import { Plain, Primary } from "../../drawer/parts";
import { CameraView } from "../../camera/CameraView";
import { closeCamera, countIn, openCamera, stop, throwAway, useRecorder } from "../../camera/recorder";
import type { Clip } from "./SampleStrip";

const SECONDS = 2;
/** Where a sample was taken again. */
export type Again = { take: string; frame: number; frames: number; clip: Clip };
type Props = {
  production: string;
  slate: string;
  performer: string;
  shape: string;
  onClose: () => void;
  onTaken: (again: Again) => void;
};

export function Retake({ production, slate, performer, shape, onClose, onTaken }: Props) {
  const { phase, clip, seconds, problem } = useRecorder();
  const [take, setTake] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  useEffect(() => {
    void openCamera();
    return closeCamera;
  }, []);
  useEffect(() => {
    if (phase === "recording" && seconds >= SECONDS) stop();
  }, [phase, seconds]);
  // The clip is looked through by a job; then the frame of the extreme is known.
  const { data: shown, error } = useQuery({
    queryKey: ["extreme", take, shape],
    queryFn: () => api.extremeOf(take!, shape),
    enabled: !!take,
    retry: false,
    meta: { quiet: true },
    refetchInterval: (q) => (q.state.data?.frame == null && !q.state.error ? 700 : false),
  });
  useEffect(() => {
    if (!take || shown?.frame == null) return;
    const { footage, rate, width, height, frame, frames } = shown;
    onTaken({ take, frame, frames, clip: { footage, frames, rate, width, height } });
  }, [take, shown, onTaken]);
  const keep = async () => {
    setBusy(true);
    try {
      const name = `${shape}.${clip!.type.includes("mp4") ? "mp4" : "webm"}`;
      const { media } = await api.upload(production, new File([clip!], name));
      const made = await api.newTake(production, `${slate} ${shape} again`, performer, [{ media, name }]);
      setTake(made.id);
      await client.invalidateQueries({ queryKey: ["takes"] });
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (failed) {
      notify(failed as never);
    }
    setBusy(false);
  };
  return (
    <Box
      borderWidth="1px"
      borderColor="accent"
      borderRadius="sm"
      p="2"
      mb="2"
      data-testid="retake"
      data-phase={take ? "looking" : phase}
    >
      <Text fontSize="sm" mb="1.5">
        <b>{shape}</b> again: begin at rest, go to the extreme, come back. {SECONDS} seconds after the count-in.
      </Text>
      <CameraView production={production} watching={!take} />
      {problem && (
        <Box mt="2" role="alert">
          <Text fontSize="sm">{problem}</Text>
        </Box>
      )}
      {error && (
        <Box mt="2" role="alert">
          <Text fontSize="sm">{error.message}</Text>
        </Box>
      )}
      {take && !error && (
        <Text fontSize="sm" color="dim" mt="2">
          Looking the clip through for the extreme…
        </Text>
      )}
      <Flex gap="2" mt="2" wrap="wrap">
        {!take &&
          (clip ? (
            <>
              <Primary disabled={busy} onClick={() => void keep()}>
                Use it
              </Primary>
              <Plain disabled={busy} onClick={throwAway}>
                Throw away
              </Plain>
            </>
          ) : phase === "counting" || phase === "recording" ? (
            <Primary onClick={stop}>Stop</Primary>
          ) : (
            <Primary disabled={phase !== "ready"} onClick={countIn}>
              Record after three
            </Primary>
          ))}
        <Plain onClick={onClose}>Close</Plain>
      </Flex>
    </Box>
  );
}
