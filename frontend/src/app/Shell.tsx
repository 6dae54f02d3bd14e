// The shell: desks in words, a top line, and the open desk around viewer, region chart and time deck.
import { Box, Flex, IconButton, NativeSelect, Progress, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { CircleHelp, Moon, PackageCheck, Redo2, Search, Sun, Undo2, X } from "lucide-react";
import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, type Opened } from "../api/client";
import { CastDrawer } from "../desks/cast/CastDrawer";
import { holdOrLetGo } from "../desks/cast/sheet";
import { GatherDrawer } from "../desks/gather/GatherDrawer";
import { TakeList } from "../desks/gather/TakeList";
import { JoinDrawer } from "../desks/join/JoinDrawer";
import { SolveDrawer } from "../desks/solve/SolveDrawer";
import { TidyDrawer } from "../desks/tidy/TidyDrawer";
import { HandoverDrawer } from "../handover/HandoverDrawer";
import { clock } from "../playback/clock";
import { RegionChart } from "../regionchart/RegionChart";
import { TimeDeck } from "../timekit/TimeDeck";
import { Viewer, type View } from "../viewer/Viewer";
import { closeTake, openTake, travel, useOpen, useSession } from "../workspace/workspace";
import { toggleTheme, useLight } from "./colourMode";
import { notify } from "./notices";
import { KeySheet } from "./KeySheet";
import { SearchBox } from "./SearchBox";
import { deskAddress } from "./address";
import { useHistory } from "./useHistory";

export const DESKS = ["gather", "solve", "tidy", "cast", "join"] as const;
export type Desk = (typeof DESKS)[number];

const DRAWERS: Record<Desk, () => React.ReactNode> = {
  gather: GatherDrawer,
  solve: SolveDrawer,
  tidy: TidyDrawer,
  cast: CastDrawer,
  join: JoinDrawer,
};

// The benchmark measures our own work without the software renderer's.
const VIEWER = localStorage.getItem("dynaface.noviewer") === null;

/** What is looked at first: what was captured where it is worked on, else the character. */
function viewsOf(desk: string, sources: Opened["sources"] | undefined): View[] {
  if (!sources || (desk !== "solve" && sources.curves)) return ["character"];
  if (sources.footage)
    return [
      "footage",
      desk === "solve" && (sources.curves?.info.solve as { cardMedium?: string } | undefined)?.cardMedium
        ? "head"
        : "character",
    ];
  return sources.markers ? ["markers", "character"] : ["character"];
}

export function Shell() {
  const { production = "", desk = "gather", take } = useParams() as { production: string; desk: Desk; take?: string };
  const navigate = useNavigate();
  const opened = useSession((s) => s.opened);
  const [handing, setHanding] = useState(false);
  const [searching, setSearching] = useState(false);
  const [keys, setKeys] = useState(false);
  useLight(); // colours of regions are chosen while drawing

  useEffect(() => {
    if (take) void openTake(take);
    else closeTake();
  }, [take]);

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest("input, textarea, select");
      const control = event.ctrlKey || event.metaKey;
      if (control && event.key.toLowerCase() === "k") setSearching(true);
      else if (control && !typing && event.key.toLowerCase() === "z") void travel(event.shiftKey ? "redo" : "undo");
      else if (control && !typing && event.key.toLowerCase() === "y") void travel("redo");
      else if (typing || control || (event.target as HTMLElement).closest("[role=slider]")) return;
      else if (event.key === " ") clock.toggle();
      else if (event.key === "ArrowLeft") clock.step(event.shiftKey ? -10 : -1);
      else if (event.key === "ArrowRight") clock.step(event.shiftKey ? 10 : 1);
      else if (event.key === "Home") clock.seekFrame(clock.span.from);
      else if (event.key === "End") clock.seekFrame(clock.span.to);
      else if (event.key === "[") clock.setRange({ from: clock.frame, to: Math.max(clock.span.to, clock.frame + 1) });
      else if (event.key === "]") clock.setRange({ from: Math.min(clock.span.from, clock.frame - 1), to: clock.frame });
      else if (event.key === "\\") clock.setRange(null);
      else if (event.key === "l") clock.setLooping(!clock.looping);
      else if (event.key === "h") setHanding((h) => !h);
      else if (event.key === "?") setKeys(true);
      else if (event.key === "Escape") {
        setKeys(false);
        setSearching(false);
      } else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  const go = (to: Desk) => void navigate(deskAddress(production, to));
  const Drawer = DRAWERS[desk] ?? GatherDrawer;
  return (
    <Flex direction="column" h="100%">
      <TopLine
        production={production}
        desk={desk}
        onSearch={() => setSearching(true)}
        onKeys={() => setKeys(true)}
        handing={handing}
        onHand={() => setHanding(!handing)}
      />
      <Flex flex="1" minH="0">
        <Flex
          as="nav"
          aria-label="Desks"
          direction="column"
          w="76px"
          flexShrink={0}
          bg="bg.panel"
          borderRightWidth="1px"
          borderColor="line"
          pt="2"
        >
          {DESKS.map((name) => (
            <Box
              as="button"
              key={name}
              textAlign="left"
              px="3"
              py="2.5"
              fontSize="md"
              cursor="pointer"
              borderLeftWidth="3px"
              borderColor={desk === name ? "accent" : "transparent"}
              color={desk === name ? "ink" : "dim"}
              bg={desk === name ? "bg.raised" : undefined}
              _hover={{ color: "ink" }}
              aria-current={desk === name ? "page" : undefined}
              onClick={() => go(name)}
            >
              {name[0]!.toUpperCase() + name.slice(1)}
            </Box>
          ))}
        </Flex>
        <Flex direction="column" flex="1" minW="0">
          <Flex flex="1" minH="0">
            {desk === "gather" ? <TakeList production={production} take={take} /> : <RegionChart />}
            <Box flex="1" minW="0">
              {VIEWER && <Viewer first={viewsOf(desk, opened?.sources)} />}
            </Box>
          </Flex>
          <Box h="31%" minH="214px" flexShrink={0}>
            <TimeDeck
              movesSound={desk === "gather"}
              editsKeys={desk === "tidy"}
              onHeld={desk === "cast" ? holdOrLetGo : undefined}
            />
          </Box>
        </Flex>
        <Box
          as="aside"
          aria-label="Drawer"
          w="332px"
          flexShrink={0}
          bg="bg.panel"
          borderLeftWidth="1px"
          borderColor="line"
          overflowY="auto"
          data-testid="drawer"
        >
          {handing ? (
            <HandoverDrawer onClose={() => setHanding(false)} />
          ) : opened || desk === "gather" ? (
            <Drawer />
          ) : (
            <Empty onGo={() => go("gather")} />
          )}
        </Box>
      </Flex>
      {searching && <SearchBox production={production} onClose={() => setSearching(false)} />}
      {keys && <KeySheet onClose={() => setKeys(false)} />}
    </Flex>
  );
}

function Empty({ onGo }: { onGo: () => void }) {
  return (
    <Box p="4" color="dim">
      <Text mb="2">No take is open.</Text>
      <Box as="button" color="accent" cursor="pointer" onClick={onGo}>
        Choose one at the Gather desk
      </Box>
    </Box>
  );
}

type TopProps = {
  production: string;
  desk: string;
  onSearch: () => void;
  onKeys: () => void;
  handing: boolean;
  onHand: () => void;
};

function TopLine({ production, desk, onSearch, onKeys, handing, onHand }: TopProps) {
  const navigate = useNavigate();
  const { opened, saving } = useOpen("opened", "saving");
  const history = useHistory();
  const productions = useQuery({ queryKey: ["productions"], queryFn: api.productions }).data ?? [];
  const session = useQuery({ queryKey: ["session"], queryFn: api.session }).data;
  const client = useQueryClient();
  const light = useLight();
  const [naming, setNaming] = useState<string | null>(null);
  const begin = async () => {
    if (!naming?.trim()) return setNaming(null);
    try {
      const made = await api.beginProduction(naming.trim());
      setNaming(null);
      await client.invalidateQueries({ queryKey: ["productions"] });
      void navigate(`/${made.id}/gather`);
    } catch (error) {
      notify(error as never);
    }
  };
  return (
    <Flex
      as="header"
      h="42px"
      flexShrink={0}
      align="center"
      gap="2"
      px="3"
      bg="bg.panel"
      borderBottomWidth="1px"
      borderColor="line"
    >
      <img src="/mark.svg" width="20" height="20" alt="" />
      <Text fontWeight="600" mr="1">
        Dynaface
      </Text>
      {naming === null ? (
        <NativeSelect.Root size="xs" w="190px">
          <NativeSelect.Field
            aria-label="Production"
            value={production}
            onChange={(e) => (e.target.value === "new" ? setNaming("") : void navigate(`/${e.target.value}/${desk}`))}
          >
            {productions.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
            <option value="new">New production…</option>
          </NativeSelect.Field>
          <NativeSelect.Indicator />
        </NativeSelect.Root>
      ) : (
        <Flex gap="1" align="center">
          <Box asChild>
            <input
              autoFocus
              aria-label="Name of the new production"
              placeholder="Name, then Enter"
              value={naming}
              onChange={(e) => setNaming(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Enter") void begin();
                if (e.key === "Escape") setNaming(null);
              }}
              style={{
                background: "transparent",
                border: "1px solid",
                borderRadius: 3,
                padding: "2px 8px",
                width: 160,
              }}
            />
          </Box>
          <IconButton aria-label="Give up" size="2xs" variant="ghost" onClick={() => setNaming(null)}>
            <X size={13} />
          </IconButton>
        </Flex>
      )}
      {opened && (
        <Text truncate color="dim">
          <Text as="span" color="ink">
            {String(opened.take.body.slate)}
          </Text>
          {"  "}
          {String(opened.take.body.performer)}
          {saving > 0 ? "  saving" : ""}
        </Text>
      )}
      <Box flex="1" />
      <JobsNow production={production} />
      <IconButton
        aria-label={history.undo ? `Undo: ${history.undo}` : "Nothing to undo"}
        title={history.undo ? `Undo: ${history.undo} (Ctrl+Z)` : "Nothing to undo"}
        size="xs"
        variant="ghost"
        disabled={!history.undo}
        onClick={() => void travel("undo")}
      >
        <Undo2 size={16} />
      </IconButton>
      <IconButton
        aria-label={history.redo ? `Redo: ${history.redo}` : "Nothing to redo"}
        title={history.redo ? `Redo: ${history.redo} (Ctrl+Y)` : "Nothing to redo"}
        size="xs"
        variant="ghost"
        disabled={!history.redo}
        onClick={() => void travel("redo")}
      >
        <Redo2 size={16} />
      </IconButton>
      <IconButton aria-label="Search (Ctrl+K)" title="Search (Ctrl+K)" size="xs" variant="ghost" onClick={onSearch}>
        <Search size={16} />
      </IconButton>
      <Box
        as="button"
        px="2.5"
        py="1"
        borderRadius="sm"
        cursor="pointer"
        fontWeight="600"
        bg={handing ? "bg.pressed" : "accent"}
        color={handing ? "ink" : "accentInk"}
        display="flex"
        alignItems="center"
        gap="1.5"
        onClick={onHand}
      >
        <PackageCheck size={15} />
        Hand over
      </Box>
      <IconButton aria-label="Light or dark" title="Light or dark" size="xs" variant="ghost" onClick={toggleTheme}>
        {light ? <Moon size={16} /> : <Sun size={16} />}
      </IconButton>
      <IconButton aria-label="Keys (?)" title="Keys (?)" size="xs" variant="ghost" onClick={onKeys}>
        <CircleHelp size={16} />
      </IconButton>
      <Text fontSize="sm" color="dim">
        {session?.name}
      </Text>
      {session && !session.alone && (
        <Box
          as="button"
          fontSize="sm"
          color="dim"
          cursor="pointer"
          onClick={() => void api.signOut().then(() => window.location.assign("/"))}
        >
          sign out
        </Box>
      )}
    </Flex>
  );
}

function JobsNow({ production }: { production: string }) {
  const jobs =
    useQuery({
      queryKey: ["jobs", production],
      queryFn: () => api.jobs(production),
      refetchInterval: (q) => (q.state.data?.some((j) => j.state === "queued" || j.state === "running") ? 400 : 5000),
    }).data ?? [];
  const now = jobs.filter((j) => j.state === "queued" || j.state === "running");
  if (!now.length) return null;
  return (
    <Flex align="center" gap="2" fontSize="sm" title={now.map((j) => `${j.label}: ${j.message || j.state}`).join("\n")}>
      <Text>{now.length === 1 ? now[0]!.label : `${now.length} jobs`}</Text>
      <Progress.Root value={now[0]!.progress * 100} w="90px" size="xs">
        <Progress.Track bg="bg.pressed">
          <Progress.Range bg="accent" />
        </Progress.Track>
      </Progress.Root>
    </Flex>
  );
}
