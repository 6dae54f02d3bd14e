// From markers to curves: the day's layout, the solve as a job, the solves so far, and what the chosen one says of each marker.
import { Flex, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import { notify } from "../../shared/notices";
import { Fact, Primary, Section } from "../../drawer/parts";
import { useLayout } from "../../markers/layouts";
import { useOpen } from "../../workspace/workspace";
import { Confidence } from "./Confidence";
import { DrivePanel } from "./DrivePanel";
import { JobRow } from "./JobRow";
import { LayoutPanel } from "./LayoutPanel";
import { MarkerReview, Seen, type MarkersReport } from "./MarkerReview";
import { Solves } from "./Solves";
import { useDeskJobs } from "../../workspace/useDeskJobs";

export function MarkerSolve() {
  const { opened } = useOpen("opened");
  const client = useQueryClient();
  const take = opened!.take;
  const source = opened!.sources.markers!;
  const { layout, study, doubt } = useLayout();
  const solves = useQuery({ queryKey: ["solves", take.id], queryFn: () => api.solves(take.id) }).data ?? [];
  const { mine, running } = useDeskJobs(["markers", "marker samples"], ["solves", "takes", "layouts"]);
  const ask = async (work: () => Promise<unknown>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    }
  };
  const solve = () => void ask(() => api.solveMarkers(take.id, layout!.id));
  const chosen = opened!.sources.curves;
  const report = (chosen?.info.solve as { markers?: MarkersReport } | undefined)?.markers;
  return (
    <>
      <Section
        title="Solve"
        aside={
          <Text fontSize="sm" color="dim" truncate>
            {source.name}
          </Text>
        }
      >
        <Fact name="Markers">
          {Number(source.info.markers)} at {String(source.info.rate)} fps
        </Fact>
        {Number(source.info.lost) > 0 && (
          <Fact name="Lost samples">
            {((Number(source.info.lost) / (Number(source.info.markers) * Number(source.info.frames))) * 100).toFixed(1)}
            %
          </Fact>
        )}
        <Flex gap="2" mt="2" align="center">
          <Primary disabled={!layout || !study || !!doubt || running} onClick={solve}>
            Solve these markers
          </Primary>
          {!layout && (
            <Text fontSize="sm" color="dim">
              Make a layout first, below.
            </Text>
          )}
        </Flex>
        {mine
          .filter((j) => j.state !== "done")
          .slice(0, 3)
          .map((j) => (
            <JobRow key={j.id} job={j} onCancel={() => void ask(() => api.cancelJob(j.id))} />
          ))}
      </Section>
      {solves.length > 0 && <Solves solves={solves} />}
      <LayoutPanel busy={running} />
      {report && <MarkerReview source={chosen!.id} report={report} busy={running} onSolve={solve} />}
      {report && <Confidence source={chosen!.id} />}
      <DrivePanel />
      <Seen />
    </>
  );
}
