// Recording in the browser: the live picture with the tracked points and what to change, a level meter, a count-in.
import { Box, Flex, IconButton, NativeSelect, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../../api/client";
import { notify } from "../../app/notices";
import { Plain, Primary, Section, TextField } from "../../drawer/parts";
import { closeCamera, countIn, openCamera, stop, throwAway, useRecorder } from "./recorder";
import { useGlances } from "./useGlances";
import { useLevel } from "./useLevel";

export function RecordPanel({ production, onClose }: { production: string; onClose: () => void }) {
  const { phase, stream, clip, count, seconds, problem, cameras, microphones, camera, microphone } = useRecorder();
  const live = useRef<HTMLVideoElement>(null);
  const marks = useRef<HTMLCanvasElement>(null);
  const level = useRef<HTMLDivElement>(null);
  const [slate, setSlate] = useState("");
  const [performer, setPerformer] = useState("");
  const [busy, setBusy] = useState(false);
  const client = useQueryClient();
  const navigate = useNavigate();
  const shown = useMemo(() => (clip ? URL.createObjectURL(clip) : ""), [clip]);
  useEffect(() => () => { if (shown) URL.revokeObjectURL(shown); }, [shown]);
  useEffect(() => {
    void openCamera();
    return closeCamera;
  }, []);
  useEffect(() => {
    if (live.current && !clip) live.current.srcObject = stream;
  }, [stream, clip]);
  const watching = !!stream && !clip;
  const words = useGlances(production, watching && phase !== "recording", live, marks);
  useLevel(watching ? stream : null, level);
  const rate = stream?.getVideoTracks()[0]?.getSettings().frameRate ?? 0;

  const keep = async () => {
    setBusy(true);
    try {
      const name = `${slate.trim() || "recording"}.${clip!.type.includes("mp4") ? "mp4" : "webm"}`;
      const { media } = await api.upload(production, new File([clip!], name));
      const made = await api.newTake(production, slate.trim() || "recording", performer, [{ media, name }]);
      await client.invalidateQueries({ queryKey: ["takes"] });
      onClose();
      void navigate(`/${production}/gather/${made.id}`);
    } catch (error) {
      notify(error as never);
    } finally {
      setBusy(false);
    }
  };
  const choice = (label: string, value: string, options: { id: string; name: string }[], onPick: (id: string) => void) => (
    <Flex align="center" gap="2" py="0.5"><Text w="86px" flexShrink={0} fontSize="sm" color="dim">{label}</Text><NativeSelect.Root size="xs" disabled={phase !== "ready"}><NativeSelect.Field aria-label={label} value={value} onChange={(e) => onPick(e.target.value)}>{options.map((o) => <option key={o.id} value={o.id}>{o.name}</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root></Flex>
  );
  return (
    <Box data-testid="record-panel" data-phase={phase}>
      <Section title="Record" aside={<IconButton aria-label="Close the recorder" size="2xs" variant="ghost" onClick={onClose}><X size={14} /></IconButton>}>
        <Box position="relative" bg="bg.lane" borderRadius="sm" overflow="hidden" style={{ aspectRatio: "4 / 3" }}>
          {clip ? <video src={shown} controls style={{ width: "100%", height: "100%", objectFit: "contain" }} aria-label="What was recorded" />
            : <video ref={live} autoPlay muted playsInline style={{ width: "100%", height: "100%", objectFit: "contain" }} aria-label="Live picture" />}
          {!clip && <canvas ref={marks} style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }} />}
          {phase === "counting" && <Flex position="absolute" inset="0" align="center" justify="center" bg="blackAlpha.500"><Text fontSize="72px" fontFamily="number" color="accent">{count}</Text></Flex>}
          {phase === "recording" && <Flex position="absolute" top="2" left="2" align="center" gap="1.5" bg="blackAlpha.700" px="2" borderRadius="sm"><Box w="8px" h="8px" borderRadius="full" bg="accent" /><Text fontFamily="number" color="paper">{seconds.toFixed(1)} s</Text></Flex>}
        </Box>
        {!clip && <Box mt="1.5" h="6px" bg="bg.lane" borderRadius="2px" overflow="hidden" title="Level of the microphone"><Box ref={level} h="100%" bg="wave" style={{ width: "0%" }} aria-label="Level" /></Box>}
        {problem && <Box mt="2" role="alert"><Text>{problem}</Text><Plain mt="1" onClick={() => void openCamera()}>Try again</Plain></Box>}
        {watching && <Box mt="1.5" minH="40px" aria-live="polite">{words.length ? words.map((w) => <Text key={w} fontSize="sm" color="accent">{w}</Text>) : <Text fontSize="sm" color="dim">{phase === "recording" ? "Recording." : "The face stands well."}</Text>}{rate > 0 && rate < 24 && <Text fontSize="sm" color="accent">Only {rate.toFixed(0)} pictures a second: more light, or another camera</Text>}</Box>}
        {!clip && cameras.length > 0 && <>{choice("Camera", camera, cameras, (id) => void openCamera(id, microphone))}{choice("Microphone", microphone, microphones, (id) => void openCamera(camera, id))}</>}
        {clip ? (
          <>
            <TextField label="Slate" value={slate} onCommit={setSlate} placeholder="recording" />
            <TextField label="Performer" value={performer} onCommit={setPerformer} placeholder="who was captured" />
            <Flex gap="2" mt="2"><Primary disabled={busy} onClick={() => void keep()}>Keep as a take</Primary><Plain disabled={busy} onClick={throwAway}>Throw away</Plain></Flex>
          </>
        ) : (
          <Flex gap="2" mt="2">{phase === "counting" || phase === "recording" ? <Primary onClick={stop}>Stop</Primary> : <Primary disabled={phase !== "ready"} onClick={countIn}>Record after three</Primary>}</Flex>
        )}
      </Section>
    </Box>
  );
}
