// A stand-in for the program that a feed drives: each sender on the character, with what arrives of it.
import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { useLive } from "../viewer/live";
import { LiveCharacter } from "../viewer/LiveCharacter";
import { factsOf, lateOf, waitingFor, type Arriving } from "./receiverModel";
import { useReceived } from "./receiverWire";

export function ReceiverPage() {
  const { reached, received } = useReceived();
  const driven = useLive((s) => s.driven.map((d) => d.of).join());
  const shown = driven ? driven.split(",") : [];
  const senders = received?.senders ?? [];
  return (
    <Flex direction="column" h="100vh" bg="bg.ground" color="ink">
      <Flex align="baseline" gap="3" px="4" h="42px" pt="2" borderBottomWidth="1px" borderColor="line">
        <Text fontWeight="600">Receiver</Text>
        <Text fontSize="sm" color="dim">
          stands in for the program that a feed drives
        </Text>
      </Flex>
      {!shown.length && (
        <Text m="auto" color="dim" role="status">
          {waitingFor(received, reached)}
        </Text>
      )}
      {shown.length > 0 && (
        <Flex flex="1" minH="0" gap="1px" bg="line">
          {shown.map((of) => (
            <Flex key={of} flex="1" minW="0" direction="column" data-testid="received">
              <Box flex="1" minH="0" position="relative">
                <LiveCharacter of={of} />
              </Box>
              <Facts one={senders.find((s) => String(s.sender) === of)} of={of} />
            </Flex>
          ))}
        </Flex>
      )}
    </Flex>
  );
}

function Facts({ one, of }: { one: Arriving | undefined; of: string }) {
  const [late, setLate] = useState<[number, number, number]>([0, 0, 0]);
  useEffect(() => {
    const timer = window.setInterval(() => {
      const canvas = document.querySelector<HTMLElement>(`[data-of="${of}"]`);
      setLate(lateOf(canvas?.dataset.late));
    }, 500);
    return () => window.clearInterval(timer);
  }, [of]);
  if (!one) return null;
  return (
    <Box bg="bg.panel" px="4" py="3">
      <Text fontWeight="600" mb="1.5">
        {one.called || one.host}{" "}
        <Text as="span" fontWeight="400" color="dim" fontSize="sm">
          from {one.host}
        </Text>
      </Text>
      <Box display="grid" gridTemplateColumns="repeat(auto-fit, minmax(250px, 1fr))" columnGap="4" rowGap="0.5">
        {factsOf(one, late).map(([name, value]) => (
          <Flex key={name} gap="2" fontSize="sm" align="baseline">
            <Text color="dim" w="84px" flexShrink={0}>
              {name}
            </Text>
            <Text fontFamily="number">{value}</Text>
          </Flex>
        ))}
      </Box>
    </Box>
  );
}
