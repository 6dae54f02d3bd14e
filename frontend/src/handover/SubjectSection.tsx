// What is handed over: what is open, all circled takes, or takes and shots that are chosen.
import { Box, Text } from "@chakra-ui/react";
import { ChoiceField } from "../drawer/ChoiceField";
import { TakePicker } from "../drawer/TakePicker";
import type { Subject } from "./handoverModel";

export type Handable = { id: string; slate: string; about: string };
type Props = {
  subjects: Partial<Record<Subject, string>>;
  subject: Subject;
  rows: Handable[];
  chosen: string[];
  circled: number;
  onSubject: (subject: Subject) => void;
  onChoose: (chosen: string[]) => void;
};

export function SubjectSection({ subjects, subject, rows, chosen, circled, onSubject, onChoose }: Props) {
  return (
    <Box mb="1.5">
      <ChoiceField
        word="What"
        label="What is handed over"
        value={subject}
        choices={subjects as Record<string, string>}
        onChoose={(s) => onSubject(s as Subject)}
      />
      {subject === "circled" && (
        <Text fontSize="sm" color="dim" ml="94px">
          {circled} {circled === 1 ? "take" : "takes"}
        </Text>
      )}
      {subject === "chosen" && (
        <Box ml="94px">
          <TakePicker takes={rows} chosen={chosen} onChoose={onChoose} about={(r) => r.about} height="180px" />
        </Box>
      )}
    </Box>
  );
}
