import { Box, Flex, Stack, Text, Toast, Toaster } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, Route, Routes } from "react-router";
import { api, Problem } from "../api/client";
import { Primary, TextField } from "../drawer/parts";
import { notify, toaster } from "../shared/notices";
import { ConnectionNotice } from "./ConnectionNotice";
import { Shell } from "./Shell";

export function App() {
  const session = useQuery({ queryKey: ["session"], queryFn: api.session, retry: false });
  if (session.error instanceof Problem && session.error.status === 401)
    return (
      <>
        <SignIn />
        <ConnectionNotice />
        <Notices />
      </>
    );
  if (session.error)
    return (
      <Flex h="100%" align="center" justify="center">
        <Text>{session.error.message}</Text>
      </Flex>
    );
  if (!session.data) return <ConnectionNotice />;
  return (
    <>
      <Routes>
        <Route path="/" element={<First />} />
        <Route path="/:production/:desk/:take?" element={<Shell />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
      <ConnectionNotice />
      <Notices />
    </>
  );
}

/** Where a visit begins: the first production, at Gather, with its first take open. */
function First() {
  const client = useQueryClient();
  const productions = useQuery({ queryKey: ["productions"], queryFn: api.productions });
  const first = productions.data?.[0];
  const takes = useQuery({ queryKey: ["takes", first?.id], queryFn: () => api.takes(first!.id), enabled: !!first });
  const [name, setName] = useState("");
  if (first && takes.data)
    return <Navigate to={`/${first.id}/gather${takes.data[0] ? `/${takes.data[0].id}` : ""}`} replace />;
  if (!productions.data || first) return null;
  const begin = () =>
    void api.beginProduction(name).then(() => client.invalidateQueries({ queryKey: ["productions"] }), notify);
  return (
    <Flex h="100%" align="center" justify="center">
      <Stack w="340px">
        <Text fontWeight="600" fontSize="lg">
          Begin a production
        </Text>
        <TextField label="Name" value={name} onCommit={setName} />
        <Primary onClick={begin}>Begin</Primary>
      </Stack>
    </Flex>
  );
}

function SignIn() {
  const client = useQueryClient();
  const [given, setGiven] = useState({ name: "", password: "" });
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void api.signIn(given.name, given.password).then(() => client.invalidateQueries(), notify);
  };
  const style = { background: "transparent", border: "1px solid", borderRadius: 3, padding: "6px 10px" };
  return (
    <Flex h="100%" align="center" justify="center">
      <form onSubmit={submit}>
        <Stack w="300px" gap="3">
          <Text fontWeight="600" fontSize="lg">
            Sign in to Dynaface
          </Text>
          <input
            aria-label="Name"
            placeholder="Name"
            autoFocus
            style={style}
            value={given.name}
            onChange={(e) => setGiven({ ...given, name: e.target.value })}
          />
          <input
            aria-label="Password"
            placeholder="Password"
            type="password"
            style={style}
            value={given.password}
            onChange={(e) => setGiven({ ...given, password: e.target.value })}
          />
          <Primary type="submit">Sign in</Primary>
        </Stack>
      </form>
    </Flex>
  );
}

function Notices() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root
          w="380px"
          bg="bg.raised"
          color="ink"
          borderWidth="1px"
          borderColor={toast.type === "error" ? "accent" : "line"}
        >
          <Box flex="1">
            <Toast.Title>{toast.title}</Toast.Title>
            {toast.description && <Toast.Description color="dim">{toast.description}</Toast.Description>}
          </Box>
          {toast.closable && <Toast.CloseTrigger />}
        </Toast.Root>
      )}
    </Toaster>
  );
}
