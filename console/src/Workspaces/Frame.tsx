import {
  ActionIcon,
  Alert,
  Anchor,
  AppShell,
  Burger,
  Button,
  Group,
  Menu,
  Text,
  UnstyledButton,
  useComputedColorScheme,
  useMantineColorScheme,
} from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, Outlet } from "@tanstack/react-router";
import { api, take } from "../api";
import { Refusal } from "../ui/Refusal";
import { useAhead } from "../ui/useAhead";
import { dayOf } from "../ui/words";
import { useWorkspace } from "./useWorkspace";

// What people go to from these is read ahead with them.
const further = ["/w/$workspace/people/$id", "/w/$workspace/invite/$id"] as const;

const steps = [
  ["/w/$workspace", "Overview"],
  ["/w/$workspace/invite", "Invite"],
  ["/w/$workspace/people", "People"],
  ["/w/$workspace/access", "Access"],
  ["/w/$workspace/accounts", "Accounts"],
  ["/w/$workspace/endings", "Endings"],
  ["/w/$workspace/record", "Record"],
  ["/w/$workspace/workspace", "Workspace"],
] as const;

/** What stands around every page: where one is, who one is, and the steps of the work. */
export function Frame() {
  const [opened, { toggle, close }] = useDisclosure();
  const { workspace, view, fault } = useWorkspace();
  const offered = steps.filter(([, name]) => view?.pages?.includes(name));
  useAhead(workspace, view ? [...offered.map(([to]) => to), ...further] : []);
  const me = useQuery({ queryKey: ["me"], queryFn: () => take(api.GET("/api/v1/me")), staleTime: 60_000 });
  return (
    <AppShell
      header={{ height: 56 }}
      navbar={{ width: 208, breakpoint: "sm", collapsed: { mobile: !opened } }}
      padding={{ base: "sm", sm: "lg" }}
    >
      <AppShell.Header
        style={{ background: "var(--aboard-sheet)", borderTop: "4px solid var(--aboard-accent)" }}
      >
        <Group h="100%" px="md" justify="space-between" wrap="nowrap">
          <Group gap="sm" wrap="nowrap">
            <Burger opened={opened} onClick={toggle} hiddenFrom="sm" size="sm" aria-label="Navigation" />
            <Place name={view?.name ?? workspace} here={workspace} places={me.data?.places ?? []} />
          </Group>
          <Group gap="md" wrap="nowrap">
            <Text size="sm" visibleFrom="sm" component="a" href="/account" className="soft" td="underline">
              {me.data?.name}
            </Text>
            <SchemeSwitch />
            <UnstyledButton onClick={signOut} style={{ textDecoration: "underline" }}>
              Sign out
            </UnstyledButton>
          </Group>
        </Group>
      </AppShell.Header>
      <AppShell.Navbar style={{ background: "var(--aboard-sheet)" }} py="sm" aria-label="Steps of the work">
        {offered.map(([to, name]) => (
          <Link
            key={to}
            to={to}
            params={{ workspace }}
            className="nav-link"
            onClick={close}
            activeOptions={{ exact: name === "Overview" }}
          >
            {name}
          </Link>
        ))}
        <a href="/places" className="nav-link">
          My places
        </a>
      </AppShell.Navbar>
      <AppShell.Main>
        {me.data && !me.data.isAddressProved && <UnprovedAddress address={me.data.address} />}
        {view?.strongSignInFrom && (
          <Alert
            color="warn"
            variant="light"
            mb="md"
            title={`From ${dayOf(view.strongSignInFrom)} you get in here only with a passkey or a second step.`}
          >
            <Anchor href="/account" size="sm">
              Set one up in your account
            </Anchor>
          </Alert>
        )}
        {fault ? <Refusal of={fault} /> : <Outlet />}
      </AppShell.Main>
    </AppShell>
  );
}

/** The workspace one is in, and the others in which one has duties: one goes there without signing out. */
function Place(props: {
  name: string;
  here: string;
  places: { workspace: string; name: string; duties: string[] }[];
}) {
  const others = props.places.filter((place) => place.duties.length > 0 && place.workspace !== props.here);
  const name = (
    <Text fw={650} size="lg" truncate>
      {props.name}
    </Text>
  );
  if (others.length === 0) return name;
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <UnstyledButton aria-label={`${props.name}: go to another workspace`} style={{ minWidth: 0 }}>
          <Group gap={6} wrap="nowrap">
            {name}
            <span aria-hidden>▾</span>
          </Group>
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        {others.map((place) => (
          <Menu.Item key={place.workspace} component="a" href={`/w/${place.workspace}`}>
            {place.name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

/** Said until the mail that proves the address has been answered: who cannot be reached cannot be let in again. */
function UnprovedAddress({ address }: { address: string }) {
  const again = useMutation({ mutationFn: () => take(api.POST("/api/v1/me/address-proof")) });
  return (
    <Alert color="warn" variant="light" mb="md" title={`${address} is not proved to be yours yet.`}>
      <Group justify="space-between">
        <Text size="sm">
          {again.isSuccess
            ? "A mail is on its way. Open its link and confirm."
            : "Until it is, a forgotten password cannot be replaced with certainty, and somebody else could prove it. A mail with a link waits for you as soon as mail works."}
        </Text>
        <Button size="xs" variant="default" onClick={() => again.mutate()} loading={again.isPending}>
          Send the mail again
        </Button>
      </Group>
      <Refusal of={again.error} />
    </Alert>
  );
}

function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme("light");
  const other = scheme === "light" ? "dark" : "light";
  return (
    <ActionIcon
      variant="subtle"
      aria-label={`Change to ${other} colours`}
      onClick={() => setColorScheme(other)}
    >
      <span aria-hidden="true">{scheme === "light" ? "☾" : "☀"}</span>
    </ActionIcon>
  );
}

async function signOut() {
  await api.DELETE("/api/v1/sessions/current");
  window.location.assign("/sign-in");
}
