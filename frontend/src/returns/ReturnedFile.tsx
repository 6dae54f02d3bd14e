// What was found in a file that came back: what was put right, what is different, and the layer that holds it.
import { Box, Flex, Text } from "@chakra-ui/react";
import { Check, Layers, TriangleAlert, Wrench } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Plain } from "../drawer/parts";
import { wishLayer } from "../workspace/workspace";
import { framesOf, inOrder, named, type ReturnedRow, summary, wordsOf } from "./returnModel";

const FEW = 8; // differences shown at first

type Props = { row: ReturnedRow; production: string; onOpen: () => void };

export function ReturnedFile({ row, production, onOpen }: Props) {
  const navigate = useNavigate();
  const [all, setAll] = useState(false);
  const differences = inOrder(row.differences ?? []);
  const shown = all ? differences : differences.slice(0, FEW);
  const open = () => {
    const first = Math.min(...differences.flatMap((d) => d.runs.map(([a]) => a)));
    wishLayer(row.shot!, row.role!, row.layer!, first);
    void navigate(`/${production}/layer/${row.shot!}`);
    onOpen();
  };
  return (
    <Box borderWidth="1px" borderColor="line" borderRadius="sm" p="2" mb="2" bg="bg.raised" data-testid="returned">
      <Text fontWeight="600" overflowWrap="anywhere">
        {row.file}
      </Text>
      {row.of && row.of !== row.file && (
        <Text fontSize="sm" color="dim" overflowWrap="anywhere">
          of {row.of}
        </Text>
      )}
      {row.ok ? (
        <Line mark={<Check size={13} />}>
          {differences.length
            ? `${summary(differences)} different: ${row.face ? "a layer of the face" : "a touch-up layer"}`
            : "nothing is different, so there is no layer"}
        </Line>
      ) : (
        <Line mark={<TriangleAlert size={13} color="var(--chakra-colors-accent)" />}>{row.said}</Line>
      )}
      {row.ok && row.said && <Line mark={<TriangleAlert size={13} />}>{row.said}</Line>}
      {row.putRight?.map((said) => (
        <Line key={said} mark={<Wrench size={13} />}>
          {said}
        </Line>
      ))}
      {row.changed && (
        <Line mark={<TriangleAlert size={13} />}>
          The work has changed since: what is different is put on what it is now
        </Line>
      )}
      {row.left?.map((said) => (
        <Line key={said} mark={<TriangleAlert size={13} />}>
          {said}
        </Line>
      ))}
      {!!row.unknown?.length && <Line dim>Not of this work: {named(row.unknown)}</Line>}
      {!!row.absent?.length && <Line dim>Did not come back, so left as it is: {named(row.absent)}</Line>}
      {shown.length > 0 && (
        <Box mt="1.5" fontSize="sm">
          {shown.map((d) => (
            <Flex key={`${d.part} ${d.of}`} justify="space-between" gap="3" py="0.5">
              <Text minW="0" overflowWrap="anywhere">
                {wordsOf(d)}
              </Text>
              <Text color="dim" textAlign="right">
                {framesOf(d.runs)}
              </Text>
            </Flex>
          ))}
        </Box>
      )}
      <Flex gap="1" mt="1.5">
        {row.layer && (
          <Plain size="2xs" onClick={open}>
            <Layers size={12} />
            {row.begun ? "Open the shot that was begun for it" : "Open the layer"}
          </Plain>
        )}
        {differences.length > shown.length && (
          <Plain size="2xs" onClick={() => setAll(true)}>
            {differences.length - shown.length} more
          </Plain>
        )}
      </Flex>
    </Box>
  );
}

function Line({ mark, dim, children }: { mark?: React.ReactNode; dim?: boolean; children: React.ReactNode }) {
  return (
    <Flex gap="1.5" fontSize="sm" align="flex-start" color={dim ? "dim" : undefined}>
      {mark && (
        <Box flexShrink={0} mt="3px">
          {mark}
        </Box>
      )}
      <Text minW="0" overflowWrap="anywhere">
        {children}
      </Text>
    </Flex>
  );
}
