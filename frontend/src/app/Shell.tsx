// The shell: desks in words, a top line, and the open desk around viewer, region chart and time deck.
import { Box, Flex, IconButton, NativeSelect, Progress, Text } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { CircleHelp, Moon, PackageCheck, Redo2, Search, Sun, Undo2, X } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, type Opened } from "../api/client";
import { listen } from "../commands/commands";
import { useRegister } from "../commands/useRegister";
import { TimeDeck } from "../deck/TimeDeck";
import { holdOrLetGo } from "../desks/cast/sheet";
import { setFeeding } from "../desks/gather/gathering";
import { GatherDrawer } from "../desks/gather/GatherDrawer";
import { TakeList } from "../desks/gather/TakeList";
import { useMatchState } from "../match/useMatch";
import { LineUpBars } from "../desks/join/LineUpBars";
import { useLineUp } from "../desks/join/lineUp";
import { LayerStage } from "../desks/layer/LayerStage";
import { ShotDeck } from "../desks/layer/ShotDeck";
import { LiveChip } from "../feed/LiveChip";
import { HandoverDrawer } from "../handover/HandoverDrawer";
import { RegionChart } from "../regionchart/RegionChart";
import { toggleTheme, useLight } from "../shared/colourMode";
import { notify } from "../shared/notices";
import { Splitter, useSize, within } from "../shared/Splitter";
import { Viewer, type View } from "../viewer/Viewer";
import { closeOpen, openShot, openTake, travel, useOpen, useSession } from "../workspace/workspace";
import { Account } from "./Account";
import { deskAddress } from "./address";
import { pageCommands, TIME_COMMANDS } from "./appCommands";
import { DESKS, DRAWERS, titled, type Desk } from "./desks";
import { KeySheet } from "./KeySheet";
import { SearchBox } from "./SearchBox";
import { useHistory } from "./useHistory";

// The benchmark measures our own work without the software renderer's.
const VIEWER = localStorage.getItem("dynaface.noviewer") === null;

/** Sizes in pixels: the usual ones give the curves of the Tidy desk 200 at 1280x800. */
const USUAL = { deck: 348, shotDeck: 430, drawer: 332 };
const DECK_LEAST = 190;
const REST = 260; // what the deck leaves to the viewer and the top line
const DRAWER = { least: 280, most: 620 };

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

  const shots = desk === "layer";
  const lining = useLineUp((s) => s.shown);
  const matching = useMatchState((s) => s.shown);
  useEffect(() => {
    if (take) void (shots ? openShot(take) : openTake(take));
    else closeOpen();
  }, [take, shots]);

  const go = (to: Desk) => void navigate(deskAddress(production, to));
  const commands = useMemo(
    () => [
      ...TIME_COMMANDS,
      ...pageCommands({
        search: () => setSearching(true),
        keys: () => setKeys(true),
        handovers: () => setHanding((h) => !h),
        go: (to) => void navigate(deskAddress(production, to)),
      }),
    ],
    [navigate, production],
  );
  useRegister(commands);
  useEffect(() => listen(window), []);
  const [deckSize, keepDeck, usualDeck] = useSize(shots ? "shotDeck" : "deck", shots ? USUAL.shotDeck : USUAL.deck);
  const [drawerSize, keepDrawer, usualDrawer] = useSize("drawer", USUAL.drawer);
  const deckBounds = { least: DECK_LEAST, most: window.innerHeight - REST };
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
              {titled(name)}
            </Box>
          ))}
        </Flex>
        <Flex as="main" flex="1" minW="0">
          <Flex direction="column" flex="1" minW="0">
            <Flex flex="1" minH="0">
              {desk === "gather" ? <TakeList production={production} take={take} /> : <RegionChart />}
              <Box flex="1" minW="0">
                {VIEWER && !shots && (
                  <Viewer
                    first={matching ? ["skeletons"] : viewsOf(desk, opened?.sources)}
                    showsTrails={desk === "join"}
                  />
                )}
                {VIEWER && shots && (
                  <Box position="relative" h="100%">
                    <LayerStage />
                  </Box>
                )}
              </Box>
            </Flex>
            <Splitter
              label="Height of the deck"
              way="column"
              size={deckSize}
              bounds={deckBounds}
              onSize={keepDeck}
              onReset={usualDeck}
            />
            <Box h={`${within(deckSize, deckBounds)}px`} flexShrink={0}>
              {shots ? (
                <ShotDeck />
              ) : lining ? (
                <LineUpBars />
              ) : (
                <TimeDeck
                  movesSound={desk === "gather"}
                  editsKeys={desk === "tidy"}
                  showsContacts={desk === "join"}
                  onHeld={desk === "cast" ? holdOrLetGo : undefined}
                />
              )}
            </Box>
          </Flex>
          <Splitter
            label="Width of the drawer"
            way="row"
            size={drawerSize}
            bounds={DRAWER}
            onSize={keepDrawer}
            onReset={usualDrawer}
          />
        </Flex>
        <Box
          as="aside"
          aria-label="Drawer"
          w={`${within(drawerSize, DRAWER)}px`}
          flexShrink={0}
          bg="bg.panel"
          overflowY="auto"
          data-testid="drawer"
        >
          {handing ? (
            <HandoverDrawer onClose={() => setHanding(false)} />
          ) : opened || desk === "gather" || desk === "join" || shots ? (
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
  const { opened, shot, saving } = useOpen("opened", "shot", "saving");
  const history = useHistory();
  const productions = useQuery({ queryKey: ["productions"], queryFn: api.productions }).data ?? [];
  const session = useQuery({ queryKey: ["session"], queryFn: api.session }).data;
  const [account, setAccount] = useState(false);
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
      <Text as="h1" fontWeight="600" mr="1">
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
      {shot && (
        <Text truncate color="dim">
          <Text as="span" color="ink">
            {shot.opened.shot.body.name}
          </Text>
          {saving > 0 ? "  saving" : ""}
        </Text>
      )}
      {opened && (
        <Text truncate color="dim">
          <Text as="span" color="ink">
            {opened.take.body.slate}
          </Text>
          {"  "}
          {opened.take.body.performer}
          {saving > 0 ? "  saving" : ""}
        </Text>
      )}
      <Box flex="1" />
      <LiveChip
        onOpen={() => {
          setFeeding(true);
          void navigate(deskAddress(production, "gather"));
        }}
      />
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
      {session?.alone && (
        <Text fontSize="sm" color="dim">
          {session.name}
        </Text>
      )}
      {session && !session.alone && (
        <>
          <TextButton title="Where you are signed in, and your password" onClick={() => setAccount(true)}>
            {session.name}
          </TextButton>
          <TextButton
            title="Ends this session"
            onClick={() => void api.signOut().then(() => window.location.assign("/"))}
          >
            sign out
          </TextButton>
        </>
      )}
      {account && session && <Account name={session.name} onClose={() => setAccount(false)} />}
    </Flex>
  );
}

function TextButton({ title, onClick, children }: { title: string; onClick: () => void; children: string }) {
  return (
    <Box as="button" fontSize="sm" color="dim" cursor="pointer" title={title} onClick={onClick}>
      {children}
    </Box>
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
