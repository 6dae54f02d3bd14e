// Handing over what is open, or many at once; all handovers with their reports below.
import { Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../api/client";
import { notify } from "../shared/notices";
import { Primary, Section } from "../drawer/parts";
import { nameOfRole } from "../workspace/state";
import { useOpen } from "../workspace/workspace";
import { FormsSection } from "./FormsSection";
import { HandoverJobs } from "./HandoverJobs";
import { MadeHandover } from "./MadeHandover";
import { OptionsSection } from "./OptionsSection";
import { PresetRow } from "./PresetRow";
import { SubjectSection } from "./SubjectSection";
import { beginning, missing, type Subject, subjectsFor } from "./handoverModel";

export function HandoverPanel({ production }: { production: string }) {
  const client = useQueryClient();
  const { opened, shot, curves } = useOpen("opened", "shot", "curves");
  const open = curves ? (shot ? "shot" : opened ? "take" : null) : null;
  const subjects = subjectsFor(open, shot ? nameOfRole(shot, shot.role) : "");
  const [wished, setWished] = useState<Subject | null>(null);
  const subject = wished && wished in subjects ? wished : (Object.keys(subjects)[0] as Subject);
  const [settings, setSettings] = useState(beginning(open === "shot"));
  const [chosen, setChosen] = useState<string[]>([]);
  const forms = useQuery({ queryKey: ["handover forms"], queryFn: api.handoverForms, staleTime: Infinity }).data;
  const takes = useQuery({ queryKey: ["takes", production], queryFn: () => api.takes(production) }).data ?? [];
  const shots = useQuery({ queryKey: ["shots", production], queryFn: () => api.shots(production) }).data ?? [];
  const jobs = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data ?? [];
  const handovers = useQuery({ queryKey: ["handovers", production], queryFn: () => api.handovers(production) });

  const handable = takes.filter((t) => !t.archived && t.holds.includes("curves"));
  const circled = handable.filter((t) => t.circled).map((t) => t.id);
  const rows = [
    ...shots.map((s) => ({ id: s.id, slate: s.name, about: "shot" })),
    ...handable.map((t) => ({ id: t.id, slate: t.slate, about: t.performer })),
  ];
  const many = subject === "circled" ? circled : chosen.filter((id) => rows.some((r) => r.id === id));
  const lacking = missing(settings, subject, many.length);

  const mine = jobs.filter((j) => j.kind === "handover").slice(0, 4);
  const done = mine.filter((j) => j.state === "done").length;
  const { refetch } = handovers;
  useEffect(() => {
    void refetch();
    void client.invalidateQueries({ queryKey: ["takes"] });
  }, [done, refetch, client]);

  const begin = async () => {
    try {
      if (subject === "take") await api.handOver(opened!.take.id, settings);
      else if (subject === "role") await api.handOverRole(shot!.opened.shot.id, shot!.role, settings);
      else if (subject === "shot") await api.handOverRole(shot!.opened.shot.id, "", settings);
      else await api.handOverAll(production, many, settings);
      await client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      notify(error as never);
    }
  };
  const name = shot ? shot.opened.shot.body.name : (opened?.take.body.slate ?? "");
  return (
    <>
      <Section title={`Hand over ${open ? name : ""}`}>
        <SubjectSection
          subjects={subjects}
          subject={subject}
          rows={rows}
          chosen={chosen}
          circled={circled.length}
          onSubject={setWished}
          onChoose={setChosen}
        />
        <PresetRow production={production} settings={settings} onChange={setSettings} />
        <FormsSection
          forms={forms?.forms ?? []}
          settings={settings}
          several={subject !== "take" && subject !== "role"}
          onChange={setSettings}
        />
        <OptionsSection
          options={settings.options}
          pattern={settings.pattern}
          words={forms?.words ?? []}
          rate={open && subject !== "circled" && subject !== "chosen" ? (curves?.rateText ?? "") : ""}
          ranged={subject !== "circled" && subject !== "chosen"}
          onChange={(options) => setSettings({ ...settings, options })}
          onPattern={(pattern) => setSettings({ ...settings, pattern })}
        />
        <Primary mt="2" disabled={!!lacking} onClick={() => void begin()}>
          Hand over
        </Primary>
        {lacking && (
          <Text mt="1" fontSize="sm" color="dim">
            {lacking}
          </Text>
        )}
      </Section>
      <HandoverJobs jobs={mine} />
      <Section title="Handovers">
        {handovers.data?.map((h) => (
          <MadeHandover key={h.id} handover={h} />
        ))}
        {handovers.data?.length === 0 && <Text color="dim">Nothing has been handed over yet.</Text>}
      </Section>
    </>
  );
}
