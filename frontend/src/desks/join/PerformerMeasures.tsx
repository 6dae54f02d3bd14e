// The measures of the take's performer: typed, or taken of the body; bodies of all their takes are as large then.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { api } from "../../api/client";
import { Plain, Section, TextField } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import { onHistory, reload, setCompanion, useOpen } from "../../workspace/workspace";
import { FIELDS, ofPerformer, shownAs, typedAs, type Field } from "./measureModel";

export function PerformerMeasures() {
  const { opened } = useOpen("opened");
  const { production = "" } = useParams();
  const client = useQueryClient();
  const { id, version, body } = opened!.take;
  const { performer } = body;
  const rows = useQuery({ queryKey: ["measures", production, version], queryFn: () => api.measures(production) }).data;
  const own = rows ? ofPerformer(rows, performer) : null;
  const known = own?.id;
  // What was refused is not left standing in its field.
  const [refused, setRefused] = useState(0);
  const refuse = (why: unknown) => {
    notify(why as never);
    setRefused((n) => n + 1);
  };
  useEffect(() => setCompanion("measures", known), [known, id]);
  useEffect(() => onHistory(() => void client.invalidateQueries({ queryKey: ["measures"] })), [client]);
  const changing = (work: () => Promise<unknown>) =>
    void (async () => {
      try {
        await work();
      } catch (error) {
        refuse(error);
      }
      await client.invalidateQueries({ queryKey: ["measures"] });
      await reload();
    })();
  const keep = (field: Field, label: string, text: string) => {
    const metres = typedAs(text);
    if (metres === undefined) return refuse({ kind: "info", message: `${text} is no length in centimetres` });
    changing(async () => {
      const found = own ?? (await api.ownMeasures(id));
      await api.edit(found.id, found.version, `${label.toLowerCase()} of ${performer}`.slice(0, 120), [
        { path: field, value: metres },
      ]);
    });
  };
  if (!performer)
    return (
      <Section title="Performer">
        <Text color="dim">Name the performer at the Gather desk to keep their measures.</Text>
      </Section>
    );
  return (
    <Section
      title={performer}
      aside={
        <Plain
          size="2xs"
          title="Of the skeleton on which the body was recorded"
          onClick={() => changing(() => api.measureFromBody(id))}
        >
          Measure this body
        </Plain>
      }
    >
      {FIELDS.map(({ name, label, hint }) => (
        <Flex key={`${name} ${refused}`} align="center" gap="1" title={hint}>
          <Box flex="1">
            <TextField
              label={label}
              value={shownAs(own?.body[name])}
              placeholder="not measured"
              onCommit={(text) => keep(name, label, text)}
            />
          </Box>
          <Text fontSize="xs" color="dim">
            cm
          </Text>
        </Flex>
      ))}
      <Text color="dim" fontSize="sm">
        Bodies of all takes of {performer} are made as large: legs, arms, trunk, feet, and the way they go.
      </Text>
    </Section>
  );
}
