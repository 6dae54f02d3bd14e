// The shots of a production, and beginning one from takes.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api } from "../../api/client";
import { Plain, Primary, Section, TextField } from "../../drawer/parts";
import { TakePicker } from "../../drawer/TakePicker";
import { useArrival } from "../../shared/arrival";
import { notify } from "../../shared/notices";
import { VoiceFace } from "./VoiceFace";

export function ShotList() {
  const { production = "" } = useParams();
  const navigate = useNavigate();
  const arrival = useArrival();
  const client = useQueryClient();
  const shots = useQuery({ queryKey: ["shots", production], queryFn: () => api.shots(production) }).data ?? [];
  const all = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? [];
  const takes = all.filter((t) => t.stages.solve && !t.archived);
  const voices = all.filter((t) => !t.archived && t.holds.length === 1 && t.holds[0] === "sound");
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const circled = takes.filter((t) => t.circled).map((t) => t.id);
  const begin = async () => {
    const open = arrival();
    try {
      const made = await api.newShot(
        production,
        name.trim() || `shot ${shots.length + 1}`,
        takes.map((t) => t.id).filter((id) => chosen.includes(id)),
      );
      open(`/${production}/layer/${made.id}`);
      await client.invalidateQueries({ queryKey: ["shots", production] });
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Box data-testid="shot-list">
      <Section title="Shots">
        {!shots.length && <Text color="dim">No shot yet. Begin one below.</Text>}
        {shots
          .filter((s) => !s.archived)
          .map((s) => (
            <Box
              as="button"
              key={s.id}
              display="block"
              w="100%"
              textAlign="left"
              py="1.5"
              cursor="pointer"
              onClick={() => void navigate(`/${production}/layer/${s.id}`)}
            >
              <Flex justify="space-between">
                <Text fontWeight="600">{s.name}</Text>
                <Text color="dim">
                  {s.seconds.toFixed(1)} s at {s.rate}
                </Text>
              </Flex>
              <Text fontSize="sm" color="dim">
                {s.roles.join(", ") || "no role yet"}
              </Text>
            </Box>
          ))}
      </Section>
      <Section
        title="Begin a shot"
        aside={
          circled.length > 0 ? (
            <Plain size="2xs" onClick={() => setChosen(circled)}>
              All circled
            </Plain>
          ) : undefined
        }
      >
        <TextField label="Name" value={name} placeholder={`shot ${shots.length + 1}`} onCommit={setName} />
        <Text fontSize="sm" color="dim" mt="1" mb="1">
          Takes go in one after the other; each performer becomes a role.
        </Text>
        <TakePicker
          takes={takes}
          chosen={chosen}
          onChoose={setChosen}
          about={(t) => `${t.performer}, ${t.seconds.toFixed(1)} s`}
          height="300px"
        />
        <Primary mt="2" onClick={() => void begin()}>
          {chosen.length
            ? `Begin with ${chosen.length} ${chosen.length === 1 ? "take" : "takes"}`
            : "Begin an empty shot"}
        </Primary>
      </Section>
      {voices.length > 0 && <VoiceFace voices={voices} />}
    </Box>
  );
}
