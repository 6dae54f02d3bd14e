// A take that has only sound gets a face: words, mouth, eyes and blinks in one action, as a shot.
import { Flex, Text, Textarea } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, type TakeRow } from "../../api/client";
import { Primary, Section } from "../../drawer/parts";
import { notify } from "../../shared/notices";
import { LanguageField } from "./LanguageField";

/** voices: takes of sound alone. */
export function VoiceFace({ voices }: { voices: TakeRow[] }) {
  const { production = "" } = useParams();
  const [text, setText] = useState("");
  const [language, setLanguage] = useState("en");
  const [asked, setAsked] = useState<{ take: string; job: string } | null>(null);
  const client = useQueryClient();
  useMade(production, asked?.job ?? "", () => setAsked(null));
  const give = (take: string) =>
    api.giveFace(take, text, language).then(
      (job) => {
        setAsked({ take, job: job.id });
        void client.invalidateQueries({ queryKey: ["jobs"] });
      },
      (error: unknown) => notify(error as never),
    );
  return (
    <Section title="A face for a voice">
      <Text fontSize="sm" color="dim" mb="1">
        A shot in which the mouth says the words, the eyes look and blink.
      </Text>
      <Textarea
        size="xs"
        rows={2}
        aria-label="What is said"
        placeholder="what is said; without it vowels are guessed, which is rough"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <Flex justify="space-between" align="center" py="1" gap="2">
        <Text fontSize="sm" color="dim">
          Language
        </Text>
        <LanguageField label="Language" value={language} onChange={setLanguage} />
      </Flex>
      {voices.map((t) => (
        <Flex key={t.id} justify="space-between" align="center" py="0.5" gap="2">
          <Text truncate>
            {t.slate}{" "}
            <Text as="span" color="dim">
              {t.performer}
            </Text>
          </Text>
          <Primary disabled={!!asked} onClick={() => void give(t.id)}>
            {asked?.take === t.id ? "Listening …" : "Give it a face"}
          </Primary>
        </Flex>
      ))}
    </Section>
  );
}

/** Opens the shot that a job has made as soon as it is there; says why there is none. */
function useMade(production: string, job: string, onEnd: () => void) {
  const navigate = useNavigate();
  const client = useQueryClient();
  const jobs = useQuery({ queryKey: ["jobs", production], queryFn: () => api.jobs(production) }).data;
  const made = jobs?.find((j) => j.id === job);
  const told = useRef("");
  useEffect(() => {
    if (!made || told.current === made.id) return;
    if (made.state === "queued" || made.state === "running") return;
    told.current = made.id;
    onEnd();
    if (made.state !== "done") return notify({ kind: "info", message: made.message });
    for (const key of ["shots", "takes", "reel"]) void client.invalidateQueries({ queryKey: [key] });
    void navigate(`/${production}/layer/${String(made.result.shot)}`);
  }, [made, production, client, navigate, onEnd]);
}
