// The roles of a shot: who plays whom, and where each stands.
import { Box, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "react-router";
import { pathOf } from "../../api/changes";
import { api, type Change } from "../../api/client";
import { HeadField } from "../../drawer/HeadField";
import { LeanField } from "../../drawer/LeanField";
import { AmountField, Section } from "../../drawer/parts";
import { useTravels } from "../../workspace/regions";
import { rolesOf, type ShotState } from "../../workspace/state";
import { activeShot } from "../../workspace/workspace";
import { hasBody } from "./shotModel";

export function Roles({ shot }: { shot: ShotState }) {
  const { production = "" } = useParams();
  const characters =
    useQuery({ queryKey: ["characters", production], queryFn: () => api.characters(production) }).data ?? [];
  const { body, id } = shot.opened.shot;
  const travels = useTravels();
  const edit = (label: string, changes: Change[]) => void activeShot()?.edit(id, label, changes);
  return (
    <Section title="Roles">
      {rolesOf(shot).map((key) => {
        const role = body.roles[key]!;
        const at = (axis: 0 | 2, label: string) => (
          <AmountField
            label={label}
            unit="m"
            value={role.at[axis]}
            rest={0}
            low={-3}
            high={3}
            step={0.05}
            onDrag={() => undefined}
            onCommit={(v) =>
              edit("where a role stands", [
                { path: pathOf("roles", key, "at"), value: role.at.map((w, i) => (i === axis ? v : w)) },
              ])
            }
          />
        );
        return (
          <Box key={key} mb="2">
            <Flex align="center" gap="2" py="0.5">
              <Text w="86px" flexShrink={0} fontSize="sm" color={key === shot.role ? "accent" : "dim"} truncate>
                {role.performer || "nobody"}
              </Text>
              <NativeSelect.Root size="xs" flex="1">
                <NativeSelect.Field
                  aria-label={`Character of ${role.performer}`}
                  value={role.character ?? ""}
                  onChange={(e) =>
                    edit("swap the character", [
                      { path: pathOf("roles", key, "character"), value: e.target.value || null },
                    ])
                  }
                >
                  <option value="">no character</option>
                  {characters.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.name}
                    </option>
                  ))}
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
            </Flex>
            {at(0, "To the side")}
            {at(2, "To the front")}
            <AmountField
              label="Turned"
              unit="deg"
              value={role.turn}
              rest={0}
              low={-180}
              high={180}
              step={1}
              onDrag={() => undefined}
              onCommit={(v) => edit("turn a role", [{ path: pathOf("roles", key, "turn"), value: v }])}
            />
            {key === shot.role && hasBody(role) && (
              <HeadField
                base={`${pathOf("roles", key)}/`}
                weight={role.headWeight}
                look={role.look}
                onTry={(changes) => void activeShot()?.preview({ shot: changes })}
                onKeep={edit}
              />
            )}
            {key === shot.role && travels && (
              <LeanField
                value={role.lean}
                onDrag={(v) => void activeShot()?.preview({ shot: [{ path: pathOf("roles", key, "lean"), value: v }] })}
                onCommit={(v) => edit("lean with the head", [{ path: pathOf("roles", key, "lean"), value: v }])}
              />
            )}
          </Box>
        );
      })}
    </Section>
  );
}
