import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useParams } from "react-router";
import { api } from "../../api/client";
import { useCatalogue } from "../../app/catalogue";
import { isLight } from "../../app/colourMode";
import { colourOf, REGIONS } from "../../app/regions";
import { notify } from "../../app/notices";
import { AmountField, Plain, Section, Toggle } from "../../drawer/parts";
import { Health } from "./Health";
import { edit, preview, reload, stopTrying, tryTarget, useOpen } from "../../workspace/workspace";

type Sheet = { regionStrength?: Record<string, number>; shapeStrength?: Record<string, number>; matches?: Record<string, string>; eyes?: string };

export function CastDrawer() {
  const { production = "" } = useParams();
  const { opened, selected, tried } = useOpen("opened", "selected", "tried");
  const { regionOf, shapes } = useCatalogue();
  const characters = useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) });
  const report = useQuery({ queryKey: ["cast", opened!.take.id, opened!.cast?.version, opened!.character?.id], queryFn: () => api.castReport(opened!.take.id), enabled: !!opened!.sources.curves && !!opened!.character }).data;
  const [show, setShow] = useState<"matched" | "missing" | "unused">("matched");
  const [trying, setTrying] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const sheet = (opened!.cast?.body ?? {}) as Sheet;
  const regions = sheet.regionStrength ?? {};
  const own = sheet.shapeStrength ?? {};
  const chosen = [...new Set([...Object.keys(own), ...selected.filter((s) => shapes.includes(s)).slice(0, 6)])];
  const drag = (cast: Sheet) => void preview(["weights", "head"], { cast });
  const without = (table: Record<string, number>, name: string, value: number) => (value === 1 ? Object.fromEntries(Object.entries(table).filter(([k]) => k !== name)) : { ...table, [name]: value });

  const bring = async (file: File | undefined) => {
    if (!file) return;
    try {
      const { media } = await api.upload(production, file);
      const stem = file.name.replace(/\.[^.]+$/, "");
      const made = await api.newCharacter(production, stem.charAt(0).toUpperCase() + stem.slice(1), { media, name: file.name });
      await characters.refetch();
      await edit("take", `cast on ${String(made.body.name)}`, [{ path: "character", value: made.id }]);
    } catch (error) {
      notify(error as never);
    }
    await reload();
  };

  return (
    <Box data-testid="cast-drawer">
      <Section title="Character" aside={<><Plain size="2xs" onClick={() => picker.current?.click()}>Bring one in</Plain><input ref={picker} type="file" hidden accept=".glb" data-testid="character-picker" onChange={(e) => { void bring(e.target.files?.[0]); e.target.value = ""; }} /></>}>
        {characters.data?.length ? (
          <NativeSelect.Root size="xs"><NativeSelect.Field aria-label="Character" value={opened!.character?.id ?? ""} onChange={(e) => void edit("take", `cast on ${e.target.selectedOptions[0]?.text ?? ""}`, [{ path: "character", value: e.target.value }])}>{characters.data.map((c) => <option key={c.id} value={c.id}>{c.name}</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root>
        ) : <Text color="dim">No character yet. Bring one in as glTF (.glb) with shapes or joints.</Text>}
      </Section>
      {opened!.character && <Health character={opened!.character.id} />}
      {report && (
        <Section title="Matches">
          <Flex gap="1" mb="2">{(["matched", "missing", "unused"] as const).map((k) => <Plain key={k} size="2xs" aria-pressed={show === k} bg={show === k ? "bg.pressed" : undefined} onClick={() => setShow(k)}>{report[k].length} {k}</Plain>)}</Flex>
          <Box maxH="168px" overflowY="auto" fontSize="sm" data-testid="matches">
            {show === "matched" && report.matched.filter((m) => !selected.length || selected.length > 20 || selected.includes(m.shape) || !shapes.some((s) => selected.includes(s))).map((m) => <Match key={m.target} target={m.target} shape={m.shape} note={`${m.meshes.join(", ")}${m.how === "hand" ? ", by hand" : ""}`} shapes={shapes} sheet={sheet} />)}
            {show === "missing" && (report.missing.length ? report.missing.map((s) => <Text key={s} py="0.5">{s}</Text>) : <Text color="dim">The character has every standard shape.</Text>)}
            {show === "unused" && (report.unused.length ? report.unused.map((t) => <Match key={t} target={t} shape="" note="" shapes={shapes} sheet={sheet} />) : <Text color="dim">Every target of the character is driven.</Text>)}
          </Box>
          {report.eyeJoints.length > 0 && <Box mt="2"><Toggle label="Eyes turn by joints" hint={`Joints ${report.eyeJoints.join(", ")}; off: by the look shapes`} on={(sheet.eyes ?? "joints") === "joints"} onChange={(on) => void edit("cast", on ? "eyes by joints" : "eyes by shapes", [{ path: "eyes", value: on ? "joints" : "shapes" }])} /></Box>}
        </Section>
      )}
      {opened!.cast && (
        <>
          <Section title="Strength by region">
            {REGIONS.map(({ name }) => <AmountField key={name} label={name} mark={colourOf(name, isLight())} value={regions[name] ?? 1} rest={1} low={0} high={2} step={0.01} unit="×" onDrag={(v) => drag({ regionStrength: { ...regions, [name]: v } })} onCommit={(v) => void edit("cast", `strength of the ${name}`, [{ path: "regionStrength", value: without(regions, name, v) }])} />)}
          </Section>
          <Section title="Strength by shape">
            {chosen.map((name) => <AmountField key={name} label={name} mark={colourOf(regionOf[name] ?? "lips", isLight())} value={own[name] ?? 1} rest={1} low={0} high={3} step={0.01} unit="×" onDrag={(v) => drag({ shapeStrength: { ...own, [name]: v } })} onCommit={(v) => void edit("cast", `strength of ${name}`, [{ path: "shapeStrength", value: without(own, name, v) }])} />)}
            {!chosen.length && <Text color="dim">Choose shapes in the region chart.</Text>}
          </Section>
        </>
      )}
      {report && (
        <Section title="Try the rig" aside={<Toggle label="by hand" on={trying} onChange={(on) => { setTrying(on); if (!on) stopTrying(); }} />}>
          {trying ? report.matched.filter((m) => selected.includes(m.shape)).slice(0, 10).map((m) => <AmountField key={m.target} label={m.target} value={tried[m.target] ?? 0} low={0} high={1} step={0.01} onDrag={(v) => tryTarget(m.target, v)} onCommit={(v) => tryTarget(m.target, v)} />) : <Text color="dim" fontSize="sm">Moves the chosen shapes on the character, whatever the take does. Nothing of it is kept.</Text>}
        </Section>
      )}
    </Box>
  );
}

function Match({ target, shape, note, shapes, sheet }: { target: string; shape: string; note: string; shapes: string[]; sheet: Sheet }) {
  return (
    <Flex align="center" gap="2" py="0.5">
      <Text flex="1" truncate title={note}>{target}<Text as="span" color="dim" ml="2">{note}</Text></Text>
      <NativeSelect.Root size="xs" w="132px"><NativeSelect.Field aria-label={`Shape of ${target}`} value={shape} onChange={(e) => void edit("cast", `match ${target}`, [{ path: "matches", value: { ...sheet.matches, [target]: e.target.value } }])}><option value="">left alone</option>{shapes.map((s) => <option key={s} value={s}>{s}</option>)}</NativeSelect.Field><NativeSelect.Indicator /></NativeSelect.Root>
    </Flex>
  );
}
