// Brings a body, or hands for one, into the open take; of a file with several performers one is chosen.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useParams } from "react-router";
import { api, type FileIn, type Schemas } from "../../api/client";
import { Plain } from "../../drawer/parts";
import { PickFile } from "../../drawer/PickFile";
import { notify } from "../../shared/notices";
import { reload, useOpen } from "../../workspace/workspace";

type Found = { file: FileIn; bodies: Schemas["FoundBody"][] };

/** The file that was brought and the performers in it, until one is chosen. */
export function useBringing(part: "body" | "hands") {
  const { production = "" } = useParams();
  const { opened } = useOpen("opened");
  const [found, setFound] = useState<Found | null>(null);
  const attach = async (file: FileIn, which: number) => {
    setFound(null);
    await api.attach(opened!.take.id, { ...file, part, which });
    await reload();
  };
  const trying = (work: Promise<void>) => void work.catch(notify as never);
  const bring = (chosen: File) =>
    trying(
      (async () => {
        const { media } = await api.upload(production, chosen);
        const file = { media, name: chosen.name };
        const bodies = await api.bodies(production, file);
        if (bodies.length > 1) setFound({ file, bodies });
        else await attach(file, 0);
      })(),
    );
  return { found, bring, choose: (which: number) => trying(attach(found!.file, which)), drop: () => setFound(null) };
}

type Bringing = ReturnType<typeof useBringing>;

export const BringButton = ({ word, test, bringing }: { word: string; test: string; bringing: Bringing }) => (
  <PickFile word={word} test={test} accept=".bvh,.glb,.gltf,.zip" onPick={bringing.bring} />
);

export function Performers({ bringing }: { bringing: Bringing }) {
  const { found, choose, drop } = bringing;
  if (!found) return null;
  return (
    <Box mt="1" data-testid="performers">
      <Text fontSize="sm" color="dim">
        {found.file.name} holds {found.bodies.length} performers; which one is it?
      </Text>
      {found.bodies.map((body, which) => (
        <Flex key={which} align="center" justify="space-between" gap="2" py="0.5">
          <Text minW="0" truncate>
            {body.name}, {body.joints} joints, {body.seconds.toFixed(1)} s
          </Text>
          <Plain size="2xs" flexShrink={0} aria-label={`Take ${body.name}`} onClick={() => choose(which)}>
            This one
          </Plain>
        </Flex>
      ))}
      <Plain size="2xs" mt="1" onClick={drop}>
        None of them
      </Plain>
    </Box>
  );
}
