// The sheet of keys: every command that is offered now, by group.
import { Box, Flex, Text } from "@chakra-ui/react";
import { DialogFrame } from "../shared/DialogFrame";
import { inWords, useCommands, type Command } from "../commands/commands";

/** Groups in the order in which they were offered, without commands that have neither key nor gesture. Pure. */
export function sheetOf(commands: Command[]): [string, Command[]][] {
  const groups = new Map<string, Command[]>();
  for (const command of commands.filter((c) => c.keys?.length || c.gesture))
    groups.set(command.group, [...(groups.get(command.group) ?? []), command]);
  return [...groups];
}

export function KeySheet({ onClose }: { onClose: () => void }) {
  const commands = useCommands((s) => s.commands);
  return (
    <DialogFrame title="Keys" size="lg" maxW="1080px" onClose={onClose}>
      <Box columnCount={3} columnGap="6">
        {sheetOf(commands).map(([group, list]) => (
          <Box key={group} mb="3">
            <Text fontWeight="600" mb="1">
              {group}
            </Text>
            {list.map((c) => (
              <Flex key={c.id} gap="2" fontSize="sm" lineHeight="1.55" breakInside="avoid">
                <Text w="128px" flexShrink={0} color="accent">
                  {c.gesture ?? c.keys!.map(inWords).join(", ")}
                </Text>
                <Text color="dim">{c.name}</Text>
              </Flex>
            ))}
          </Box>
        ))}
      </Box>
    </DialogFrame>
  );
}
