// Who moves the head, against what the face was filmed, and a trunk that leans after it.
import { Text } from "@chakra-ui/react";
import { HeadField } from "../../drawer/HeadField";
import { LeanField } from "../../drawer/LeanField";
import { Section } from "../../drawer/parts";
import { useTravels } from "../../workspace/regions";
import { useJoinReport } from "../../workspace/useJoinReport";
import { edit, preview, useOpen } from "../../workspace/workspace";
import { HeadTurns } from "./HeadTurns";

export function HeadPanel() {
  const { opened } = useOpen("opened");
  const report = useJoinReport();
  const join = opened!.join.body;
  const travels = useTravels();
  const body = opened!.sources.body;
  return (
    <>
      {body ? (
        <Section title="Who moves the head">
          <HeadField
            base=""
            weight={join.headWeight}
            look={join.look}
            onTry={(changes) => void preview({ join: changes })}
            onKeep={(label, changes) => void edit("join", label, changes)}
          />
          {report && <HeadTurns join={join} head={report.head} />}
        </Section>
      ) : (
        <Section title="Who moves the head">
          <Text color="dim">Without a body take the face take moves neck and head alone.</Text>
        </Section>
      )}
      {travels && (
        <Section title="Lean">
          <LeanField
            value={join.lean}
            onDrag={(v) => void preview({ join: [{ path: "lean", value: v }] })}
            onCommit={(v) => void edit("join", "lean with the head", [{ path: "lean", value: v }])}
          />
          <Text fontSize="sm" color="dim">
            The camera stood still and saw the head go. The trunk bends after it, by 30 degrees at most.
          </Text>
        </Section>
      )}
    </>
  );
}
