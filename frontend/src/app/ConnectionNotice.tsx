// Said at the top while the server does not answer; it goes by itself.
import { Flex, Spinner, Text } from "@chakra-ui/react";
import { useConnection } from "../api/connection";

export function ConnectionNotice() {
  const lost = useConnection((s) => s.lost);
  if (!lost) return null;
  return (
    <Flex
      role="status"
      position="fixed"
      top="8px"
      left="50%"
      transform="translateX(-50%)"
      zIndex="toast"
      align="center"
      gap="2"
      px="3"
      py="1.5"
      borderRadius="sm"
      bg="bg.raised"
      color="ink"
      borderWidth="1px"
      borderColor="accent"
      data-testid="connection"
    >
      <Spinner size="xs" />
      <Text fontSize="sm">The server does not answer. Trying again; what was stored is safe.</Text>
    </Flex>
  );
}
