// Recording in the browser: the live picture with the tracked points and what to change, a level meter, a count-in.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api } from "../../api/client";
import { useArrival } from "../../shared/arrival";
import { notify } from "../../shared/notices";
import { Plain, Primary, Section, TextField } from "../../drawer/parts";
import { CameraView } from "../../camera/CameraView";
import { closeCamera, countIn, openCamera, stop, throwAway, useRecorder } from "../../camera/recorder";
import { useLevel } from "../../camera/useLevel";

export function RecordPanel({ production, onClose }: { production: string; onClose: () => void }) {
  const { phase, stream, clip, problem, cameras, microphones, camera, microphone } = useRecorder();
  const level = useRef<HTMLDivElement>(null);
  const [slate, setSlate] = useState("");
  const [performer, setPerformer] = useState("");
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  const arrival = useArrival();
  useEffect(() => {
    void openCamera();
    return closeCamera;
  }, []);
  useLevel(stream && !clip ? stream : null, level);

  const keep = async () => {
    setBusy(true);
    const open = arrival();
    try {
      const name = `${slate.trim() || "recording"}.${clip!.type.includes("mp4") ? "mp4" : "webm"}`;
      const { media } = await api.upload(production, new File([clip!], name));
      const made = await api.newTake(production, slate.trim() || "recording", performer, [{ media, name }]);
      open(`/${production}/gather/${made.id}`);
      onClose();
      await client.invalidateQueries({ queryKey: ["takes"] });
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy(false);
    }
  };
  const choice = (
    label: string,
    value: string,
    options: { id: string; name: string }[],
    onPick: (id: string) => void,
  ) => (
    <Flex align="center" gap="2" py="0.5">
      <Text w="86px" flexShrink={0} fontSize="sm" color="dim">
        {label}
      </Text>
      <NativeSelect.Root size="xs" disabled={phase !== "ready"}>
        <NativeSelect.Field aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>
          {options.map((o) => (
            <option key={o.id} value={o.id}>
              {o.name}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
    </Flex>
  );
  return (
    <Box data-testid="record-panel" data-phase={phase}>
      <Section
        title="Record"
        aside={
          <IconButton aria-label="Close the recorder" size="2xs" variant="ghost" onClick={onClose}>
            <X size={14} />
          </IconButton>
        }
      >
        <CameraView production={production} />
        {!clip && (
          <Box mt="1.5" h="6px" bg="bg.lane" borderRadius="2px" overflow="hidden" title="Level of the microphone">
            <Box ref={level} h="100%" bg="wave" style={{ width: "0%" }} aria-label="Level" />
          </Box>
        )}
        {problem && (
          <Box mt="2" role="alert">
            <Text>{problem}</Text>
            <Plain mt="1" onClick={() => void openCamera()}>
              Try again
            </Plain>
          </Box>
        )}
        {!clip && cameras.length > 0 && (
          <>
            {choice("Camera", camera, cameras, (id) => void openCamera(id, microphone))}
            {choice("Microphone", microphone, microphones, (id) => void openCamera(camera, id))}
          </>
        )}
        {clip ? (
          <>
            <TextField label="Slate" value={slate} onCommit={setSlate} placeholder="recording" />
            <TextField label="Performer" value={performer} onCommit={setPerformer} placeholder="who was captured" />
            <Flex gap="2" mt="2">
              <Primary disabled={busy} onClick={() => void keep()}>
                Keep as a take
              </Primary>
              <Plain disabled={busy} onClick={throwAway}>
                Throw away
              </Plain>
            </Flex>
          </>
        ) : (
          <Flex gap="2" mt="2">
            {phase === "counting" || phase === "recording" ? (
              <Primary onClick={stop}>Stop</Primary>
            ) : (
              <Primary disabled={phase !== "ready"} onClick={countIn}>
                Record after three
              </Primary>
            )}
          </Flex>
        )}
      </Section>
    </Box>
  );
}
