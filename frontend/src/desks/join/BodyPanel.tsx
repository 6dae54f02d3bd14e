import { Box, Text } from "@chakra-ui/react";
import { AmountField, Fact, Section } from "../../drawer/parts";
import { BodyPlace } from "./BodyPlace";
import { BringButton, Performers, useBringing } from "./BringBody";
import { BodyWay } from "./BodyWay";
import { PerformerMeasures } from "./PerformerMeasures";
import { useJoinReport } from "../../workspace/useJoinReport";
import { edit, preview, useOpen, useSession } from "../../workspace/workspace";

export function BodyPanel() {
  const bringing = useBringing("body");
  const { opened } = useOpen("opened");
  const curves = useSession((s) => s.curves !== null);
  const rate = useSession((s) => s.curves?.rate ?? 60);
  const body = opened!.sources.body;
  const report = useJoinReport();
  const join = opened!.join.body;

  return (
    <Box>
      <Section
        title="Body"
        aside={<BringButton word={body ? "Another" : "Bring in a body take"} test="body-picker" bringing={bringing} />}
      >
        {body ? (
          <>
            <Fact name="Take">{body.name}</Fact>
            <Fact name="Length">
              {Number(body.info.seconds).toFixed(2)} s at {String(body.info.rate)} fps
            </Fact>
            <Fact name="Timecode">{String(body.info.timecode || "none")}</Fact>
            {report && (
              <Fact name="Face begins">
                {report.offset === null
                  ? "no timecode on both: at the body's start"
                  : `${report.offset.toFixed(3)} s into the body, by timecode`}
              </Fact>
            )}
          </>
        ) : (
          <Text color="dim">This take has no body. Bring one in (.bvh, .glb); the head then sits on its neck.</Text>
        )}
        <Performers bringing={bringing} />
      </Section>
      {body && (
        <>
          <Section title="In time">
            <AmountField
              label="Body later by"
              value={join.nudge}
              rest={0}
              low={-120}
              high={120}
              step={0.5}
              unit="frames"
              onDrag={(v) => void preview({ join: [{ path: "nudge", value: v }] })}
              onCommit={(v) => void edit("join", "nudge the body", [{ path: "nudge", value: v }])}
            />
          </Section>
          <BodyWay />
          <PerformerMeasures />
          {curves && <BodyPlace key={body.id} rate={rate} nudge={join.nudge} offset={report?.offset ?? null} />}
        </>
      )}
      {!curves && (
        <Section title="Face">
          <Text color="dim">This take has no face curves yet.</Text>
        </Section>
      )}
    </Box>
  );
}
