import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
} from "@tanstack/react-router";
import { Frame } from "./Workspaces/Frame";

/** What narrows a list; part of the address, so that a list can be shared as a link. */
export type ListSearch = { state?: string; kind?: string; search?: string };

const words = (search: Record<string, unknown>): ListSearch => {
  const word = (name: string) =>
    typeof search[name] === "string" && search[name] ? search[name] : undefined;
  return { state: word("state"), kind: word("kind"), search: word("search") };
};

const root = createRootRoute({ component: Outlet });
const workspace = createRoute({ getParentRoute: () => root, path: "/w/$workspace", component: Frame });

const overview = createRoute({
  getParentRoute: () => workspace,
  path: "/",
  component: lazyRouteComponent(() => import("./Workspaces/OverviewPage"), "OverviewPage"),
});
const invite = createRoute({
  getParentRoute: () => workspace,
  path: "/invite",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Invitations/InvitePage"), "InvitePage"),
});
const newInvitation = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/new",
  component: lazyRouteComponent(() => import("./Invitations/NewInvitationPage"), "NewInvitationPage"),
});
const invitation = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/$id",
  component: lazyRouteComponent(() => import("./Invitations/InvitationPage"), "InvitationPage"),
});
const people = createRoute({
  getParentRoute: () => workspace,
  path: "/people",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Accounts/PeoplePage"), "PeoplePage"),
});
const person = createRoute({
  getParentRoute: () => workspace,
  path: "/people/$id",
  component: lazyRouteComponent(() => import("./Accounts/PersonPage"), "PersonPage"),
});
const endings = createRoute({
  getParentRoute: () => workspace,
  path: "/endings",
  component: lazyRouteComponent(() => import("./Departures/EndingsPage"), "EndingsPage"),
});
const record = createRoute({
  getParentRoute: () => workspace,
  path: "/record",
  component: lazyRouteComponent(() => import("./Record/RecordPage"), "RecordPage"),
});
const settings = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace",
  component: lazyRouteComponent(() => import("./Workspaces/WorkspacePage"), "WorkspacePage"),
});

export const router = createRouter({
  routeTree: root.addChildren([
    workspace.addChildren([
      overview,
      invite,
      newInvitation,
      invitation,
      people,
      person,
      endings,
      record,
      settings,
    ]),
  ]),
  defaultPreload: "intent",
  defaultNotFoundComponent: () => <p>There is no such page. The navigation leads to those there are.</p>,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
