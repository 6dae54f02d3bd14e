// Which shapes a performer card may solve at all, by region and one by one; and the card for another day.
import { Box, Flex, Input, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { pathOf } from "../../api/changes";
import { api, type CardRow } from "../../api/client";
import { useCatalogue } from "../../shared/catalogue";
import { notify } from "../../shared/notices";
import { REGIONS } from "../../shared/regions";
import { Fact, Plain, Section, Toggle } from "../../drawer/parts";
import { lensWords } from "./footageJobs";
import { tellHistory } from "../../workspace/workspace";

export function CardShapes({ card }: { card: CardRow }) {
  const client = useQueryClient();
  const { shapes, regionOf } = useCatalogue();
  const [open, setOpen] = useState("");
  const [day, setDay] = useState<string | null>(null);
  const off = new Set(card.off);
  const tell = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (error) {
      notify(error as never);
    }
    await client.invalidateQueries({ queryKey: ["cards"] });
    tellHistory();
  };
  const put = (names: string[], on: boolean) => {
    const changes = names.map((s) =>
      on ? { path: pathOf("off", s), remove: true } : { path: pathOf("off", s), value: true },
    );
    void tell(() =>
      api.edit(
        card.id,
        card.version,
        `${on ? "solve" : "leave out"} ${names.length === 1 ? names[0] : regionOf[names[0]!]}`,
        changes,
      ),
    );
  };
  return (
    <Section
      title={card.name}
      aside={
        <Text fontSize="sm" color="dim">
          {card.day}
        </Text>
      }
    >
      {card.lens && <Fact name="Lens">{lensWords(card.lens)}</Fact>}
      <Text fontSize="sm" color="dim" mb="1">
        Shapes that are switched off stay at 0 in the next solve.
      </Text>
      {REGIONS.map(({ name: region }) => {
        const own = shapes.filter((s) => regionOf[s] === region && s !== "tongueOut");
        if (!own.length) return null;
        const on = own.filter((s) => !off.has(s)).length;
        return (
          <Box key={region} py="0.5">
            <Flex align="center" justify="space-between">
              <Toggle label={region} on={on > 0} onChange={(now) => put(own, now)} />
              <Box
                as="button"
                fontSize="sm"
                color="dim"
                cursor="pointer"
                aria-expanded={open === region}
                onClick={() => setOpen(open === region ? "" : region)}
              >
                {on} of {own.length}
              </Box>
            </Flex>
            {open === region && (
              <Flex gap="1" wrap="wrap" my="1">
                {own.map((s) => (
                  <Plain
                    key={s}
                    size="2xs"
                    fontSize="xs"
                    h="18px"
                    px="1.5"
                    aria-pressed={!off.has(s)}
                    color={off.has(s) ? "dim" : "ink"}
                    textDecoration={off.has(s) ? "line-through" : undefined}
                    onClick={() => put([s], off.has(s))}
                  >
                    {s}
                  </Plain>
                ))}
              </Flex>
            )}
          </Box>
        );
      })}
      <Flex align="center" gap="2" mt="2">
        {day === null ? (
          <Plain size="2xs" onClick={() => setDay(new Date().toISOString().slice(0, 10))}>
            Copy to another day
          </Plain>
        ) : (
          <>
            <Input
              size="2xs"
              w="110px"
              aria-label="Day of the copy"
              value={day}
              onChange={(e) => setDay(e.target.value)}
            />
            <Plain size="2xs" onClick={() => void tell(() => api.copyCard(card.id, day)).then(() => setDay(null))}>
              Copy
            </Plain>
            <Plain size="2xs" onClick={() => setDay(null)}>
              Give up
            </Plain>
          </>
        )}
      </Flex>
    </Section>
  );
}
