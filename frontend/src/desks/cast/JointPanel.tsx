// Joints that channels turn or slide: what drives them, and "Try it": pictures of each way a joint can turn.
import { Box, Flex, Input, NativeSelect, SimpleGrid, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { pathOf } from "../../api/changes";
import { api, type CastReport, type Drive } from "../../api/client";
import { useCatalogue } from "../../shared/catalogue";
import { useNames } from "../../shared/naming";
import { notify } from "../../shared/notices";
import { AmountField, Plain, Primary, Section } from "../../drawer/parts";
import { edit, useOpen } from "../../workspace/workspace";
import { takePictures } from "../../viewer/pictures";
import { useSheet, type Sheet } from "./sheet";

export const AXES: [string, [number, number, number]][] = [
  ["x", [1, 0, 0]],
  ["−x", [-1, 0, 0]],
  ["y", [0, 1, 0]],
  ["−y", [0, -1, 0]],
  ["z", [0, 0, 1]],
  ["−z", [0, 0, -1]],
];
const TURN = 14; // degrees that are tried
const plain = (d: Drive) => ({ moves: d.moves, axis: d.axis, most: d.most, bend: d.bend });

const keepDrive = (label: string, key: string, value: Partial<Drive> | null) =>
  edit("cast", label, [{ path: pathOf("joints", key), value }]);
const byItself = (label: string, key: string) => edit("cast", label, [{ path: pathOf("joints", key), remove: true }]);

export function JointPanel({ report }: { report: CastReport }) {
  const sheet = useSheet();
  const [open, setOpen] = useState("");
  if (!report.joints.length)
    return (
      <Section title="Joints">
        <Text color="dim">This character has no joints. Its shapes do it all.</Text>
      </Section>
    );
  const taken = Object.entries(sheet.joints)
    .filter(([, d]) => d === null)
    .map(([k]) => k);
  const joints = [...new Set(report.drives.map((d) => d.joint))];
  return (
    <>
      <TryIt report={report} />
      <Section
        title={`${report.drives.length} joint drives`}
        aside={
          report.eyeJoints.length ? (
            <Text fontSize="sm" color="dim">
              and the eyes, by {report.eyeJoints.join(", ")}
            </Text>
          ) : undefined
        }
      >
        <Box data-testid="drives" fontSize="sm">
          {joints.map((joint) => (
            <Box key={joint} mb="1.5">
              <Text fontWeight="600">{joint}</Text>
              {report.drives
                .filter((d) => d.joint === joint)
                .map((d) => (
                  <OneDrive
                    key={d.key}
                    drive={d}
                    sheet={sheet}
                    open={open === d.key}
                    onOpen={() => setOpen(open === d.key ? "" : d.key)}
                  />
                ))}
            </Box>
          ))}
          {!report.drives.length && (
            <Text color="dim">
              Nothing turns a joint but the head{report.eyeJoints.length ? " and the eyes" : ""}. Try one above.
            </Text>
          )}
          {taken.map((key) => (
            <Flex key={key} justify="space-between" align="center" color="dim">
              <Text>{key.replace(":", " by ")}</Text>
              <Plain size="2xs" onClick={() => void byItself(`drive ${key} again`, key)}>
                bring back
              </Plain>
            </Flex>
          ))}
        </Box>
      </Section>
    </>
  );
}

function OneDrive({
  drive: d,
  sheet,
  open,
  onOpen,
}: {
  drive: Drive;
  sheet: Sheet;
  open: boolean;
  onOpen: () => void;
}) {
  const named = useNames();
  const unit = d.moves === "turn" ? "deg" : "mm";
  const scale = d.moves === "turn" ? 1 : 1000;
  const axis = AXES.find(([, a]) => a.every((v, i) => Math.abs(v - d.axis[i]!) < 0.01))?.[0] ?? "own";
  const own = d.key in sheet.joints;
  const keep = (more: Partial<Drive>, label: string) => void keepDrive(label, d.key, { ...plain(d), ...more });
  return (
    <Box pl="2" borderLeftWidth="2px" borderColor={open ? "accent" : "line"}>
      <Flex
        justify="space-between"
        py="0.5"
        cursor="pointer"
        role="button"
        tabIndex={0}
        aria-expanded={open}
        aria-label={`Drive ${d.key}`}
        onClick={onOpen}
        onKeyDown={(e: React.KeyboardEvent) => {
          if (e.key === "Enter") onOpen();
        }}
      >
        <Text>{named(d.channel)}</Text>
        <Text color="dim" fontFamily="number">
          {d.moves === "turn" ? "turns about" : "slides along"} {axis}, {(d.most * scale).toFixed(1)} {unit}
          {own ? ", by hand" : ""}
        </Text>
      </Flex>
      {open && (
        <Box pb="2">
          <AmountField
            label="Most"
            unit={unit}
            low={d.moves === "turn" ? -90 : -60}
            high={d.moves === "turn" ? 90 : 60}
            step={d.moves === "turn" ? 0.5 : 0.1}
            value={d.most * scale}
            hint="How far it goes when the channel is whole; below 0 the other way"
            onDrag={() => undefined}
            onCommit={(v) => keep({ most: v / scale }, `range of ${d.joint}`)}
          />
          <AmountField
            label="Response"
            low={-2}
            high={2}
            step={0.05}
            rest={0}
            value={d.bend}
            hint="Above 0 small weights do more, below 0 less"
            onDrag={() => undefined}
            onCommit={(v) => keep({ bend: v }, `response of ${d.joint}`)}
          />
          <Flex gap="1.5" align="center" wrap="wrap">
            <NativeSelect.Root size="xs" w="104px">
              <NativeSelect.Field
                aria-label={`Axis of ${d.key}`}
                value={axis}
                onChange={(e) => {
                  const a = AXES.find(([n]) => n === e.target.value);
                  if (a) keep({ axis: a[1] }, `axis of ${d.joint}`);
                }}
              >
                {axis === "own" && <option value="own">own axis</option>}
                {AXES.map(([n]) => (
                  <option key={n} value={n}>
                    axis {n}
                  </option>
                ))}
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
            <Plain size="2xs" onClick={() => keep({ axis: d.axis.map((v) => -v) }, `sign of ${d.joint}`)}>
              Other way
            </Plain>
            <Plain size="2xs" onClick={() => void keepDrive(`take ${d.key} away`, d.key, null)}>
              Take away
            </Plain>
            {own && (
              <Plain size="2xs" onClick={() => void byItself(`drive ${d.key} by itself`, d.key)}>
                By itself again
              </Plain>
            )}
          </Flex>
        </Box>
      )}
    </Box>
  );
}

function TryIt({ report }: { report: CastReport }) {
  const { opened } = useOpen("opened");
  const { channels, aims } = useCatalogue();
  const named = useNames();
  const source = opened!.character!.body.source;
  const likely =
    report.joints.find((j) => /jaw/i.test(j)) ?? report.joints.find((j) => /lid|brow/i.test(j)) ?? report.joints[0]!;
  const [joint, setJoint] = useState(likely);
  const [channel, setChannel] = useState("jawOpen");
  const [way, setWay] = useState("down");
  const [far, setFar] = useState("20");
  const [pictures, setPictures] = useState<Record<number, string>>({});
  const [trying, setTrying] = useState(false);
  useEffect(() => setPictures({}), [joint, source]);
  useEffect(() => {
    if (!trying) return;
    let gone = false;
    setPictures({});
    void takePictures(
      source,
      AXES.map(
        ([, axis]) =>
          (scene) =>
            scene.turnJoint(joint, axis, TURN),
      ),
      (i, picture) => setPictures((p) => ({ ...p, [i]: picture })),
      () => gone,
    ).catch(notify as never);
    return () => {
      gone = true;
    };
  }, [trying, joint, source]);
  const take = (axis: [number, number, number]) =>
    void keepDrive(`${joint} by ${channel}`, `${joint}:${channel}`, { moves: "turn", axis, most: 20, bend: 0 });
  const aim = async () => {
    try {
      const found = await api.aim(opened!.character!.id, joint, channel, way, Number(far.replace(",", ".")));
      await keepDrive(`${joint} ${way} by ${channel}`, found.key, plain(found));
      const moved =
        found.moves === "turn" ? `turns ${found.most.toFixed(1)} degrees` : `slides ${found.most.toFixed(4)} m`;
      notify({ kind: "success", message: [joint, moved, "by", channel].join(" ") });
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Section
      title="Try it"
      aside={
        <Plain
          size="2xs"
          aria-pressed={trying}
          bg={trying ? "bg.pressed" : undefined}
          onClick={() => setTrying(!trying)}
        >
          {trying ? "Put the pictures away" : "Show all six ways"}
        </Plain>
      }
    >
      <Flex gap="1.5" mb="1.5">
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field aria-label="Joint" value={joint} onChange={(e) => setJoint(e.target.value)}>
            {report.joints.map((j) => (
              <option key={j} value={j}>
                {j}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Text color="dim" pt="1">
          by
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field aria-label="Channel" value={channel} onChange={(e) => setChannel(e.target.value)}>
            {channels.map((c) => (
              <option key={c} value={c}>
                {named(c)}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      </Flex>
      {trying && (
        <>
          <Text fontSize="sm" color="dim" mb="1">
            The joint turned by {TURN} degrees about each of its axes. Press the picture that shows what{" "}
            {named(channel)} should do.
          </Text>
          <SimpleGrid columns={3} gap="1" mb="2" data-testid="axis-pictures">
            {AXES.map(([name, axis], i) => (
              <Box
                as="button"
                key={name}
                borderWidth="1px"
                borderColor="line"
                borderRadius="sm"
                overflow="hidden"
                cursor="pointer"
                _hover={{ borderColor: "paper" }}
                aria-label={`${joint} about ${name}`}
                onClick={() => take(axis)}
              >
                {pictures[i] ? (
                  <img src={pictures[i]} alt="" style={{ display: "block", width: "100%" }} />
                ) : (
                  <Box h="86px" bg="bg.ground" />
                )}
                <Text fontSize="xs" py="0.5">
                  about {name}
                </Text>
              </Box>
            ))}
          </SimpleGrid>
        </>
      )}
      <Flex gap="1.5" align="center">
        <Text fontSize="sm" color="dim" whiteSpace="nowrap">
          or aim it
        </Text>
        <NativeSelect.Root size="xs" flex="1">
          <NativeSelect.Field aria-label="Way" value={way} onChange={(e) => setWay(e.target.value)}>
            {aims.map((a) => (
              <option key={a} value={a}>
                {a}
              </option>
            ))}
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
        <Input
          size="xs"
          w="48px"
          textAlign="right"
          px="1"
          aria-label="Millimetres"
          value={far}
          onChange={(e) => setFar(e.target.value)}
        />
        <Text fontSize="sm" color="dim">
          mm
        </Text>
        <Primary onClick={() => void aim()}>Aim</Primary>
      </Flex>
    </Section>
  );
}
