import {
  createRootRoute,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
} from "@tanstack/react-router";
import {
  accessOf,
  activityOf,
  ahead,
  historyOf,
  invitationsOf,
  overviewOf,
  pagesOf,
  peopleOf,
  personOf,
  queries,
  recordOf,
} from "./queries";
import { Frame } from "./Workspaces/Frame";

/** What narrows a list; part of the address, so that a list can be shared as a link. */
export type ListSearch = {
  state?: string;
  kind?: string;
  search?: string;
  sort?: string;
  batch?: string;
  link?: string;
  verdict?: string;
  draft?: string;
};

const words = (search: Record<string, unknown>): ListSearch => {
  const word = (name: string) =>
    typeof search[name] === "string" && search[name] ? search[name] : undefined;
  return {
    state: word("state"),
    kind: word("kind"),
    search: word("search"),
    sort: word("sort"),
    batch: word("batch"),
    link: word("link"),
    verdict: word("verdict"),
    draft: word("draft"),
  };
};

const root = createRootRoute({ component: Outlet });
const workspace = createRoute({ getParentRoute: () => root, path: "/w/$workspace", component: Frame });

const overview = createRoute({
  getParentRoute: () => workspace,
  path: "/",
  loader: ({ params }) => ahead(queries.ensureQueryData(overviewOf(params.workspace))),
  component: lazyRouteComponent(() => import("./Workspaces/OverviewPage"), "OverviewPage"),
});
const invite = createRoute({
  getParentRoute: () => workspace,
  path: "/invite",
  validateSearch: words,
  loaderDeps: ({ search }) => search,
  loader: ({ params, deps }) => ahead(queries.ensureInfiniteQueryData(invitationsOf(params.workspace, deps))),
  component: lazyRouteComponent(() => import("./Invitations/InvitePage"), "InvitePage"),
});
const newInvitation = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/new",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Invitations/NewInvitationPage"), "NewInvitationPage"),
});
const inviteMany = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/many",
  component: lazyRouteComponent(() => import("./Invitations/InviteManyPage"), "InviteManyPage"),
});
const lists = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/lists",
  component: lazyRouteComponent(() => import("./Invitations/ListsPage"), "ListsPage"),
});
const list = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/lists/$id",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Invitations/ListPage"), "ListPage"),
});
const links = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/links",
  component: lazyRouteComponent(() => import("./Invitations/LinksPage"), "LinksPage"),
});
const link = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/links/$id",
  component: lazyRouteComponent(() => import("./Invitations/LinkPage"), "LinkPage"),
});
const presets = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/presets",
  component: lazyRouteComponent(() => import("./Invitations/PresetsPage"), "PresetsPage"),
});
const figures = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/figures",
  component: lazyRouteComponent(() => import("./Invitations/FiguresPage"), "FiguresPage"),
});
const bounced = createRoute({
  getParentRoute: () => workspace,
  path: "/invite/bounced",
  component: lazyRouteComponent(() => import("./Invitations/BouncedPage"), "BouncedPage"),
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
  loaderDeps: ({ search }) => search,
  loader: ({ params, deps }) => ahead(queries.ensureInfiniteQueryData(peopleOf(params.workspace, deps))),
  component: lazyRouteComponent(() => import("./Accounts/PeoplePage"), "PeoplePage"),
});
const person = createRoute({
  getParentRoute: () => workspace,
  path: "/people/$id",
  loader: ({ params: { workspace, id } }) =>
    ahead(
      queries.ensureQueryData(personOf(workspace, id)),
      queries.ensureQueryData(historyOf(workspace, id)),
      queries.ensureQueryData(activityOf(workspace, id)),
      queries.ensureQueryData(accessOf(workspace, id)),
    ),
  component: lazyRouteComponent(() => import("./Accounts/PersonPage"), "PersonPage"),
});
const accessResources = createRoute({
  getParentRoute: () => workspace,
  path: "/access/resources",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Access/ResourcesPage"), "ResourcesPage"),
});
const accessResource = createRoute({
  getParentRoute: () => workspace,
  path: "/access/resources/$id",
  component: lazyRouteComponent(() => import("./Access/ResourcePage"), "ResourcePage"),
});
const accessRoles = createRoute({
  getParentRoute: () => workspace,
  path: "/access/roles",
  component: lazyRouteComponent(() => import("./Access/RolesPage"), "RolesPage"),
});
const accessGroups = createRoute({
  getParentRoute: () => workspace,
  path: "/access/groups",
  component: lazyRouteComponent(() => import("./Access/GroupsPage"), "GroupsPage"),
});
const accessGroup = createRoute({
  getParentRoute: () => workspace,
  path: "/access/groups/$id",
  component: lazyRouteComponent(() => import("./Access/GroupPage"), "GroupPage"),
});
const accessOrganisations = createRoute({
  getParentRoute: () => workspace,
  path: "/access/organisations",
  validateSearch: words,
  component: lazyRouteComponent(() => import("./Access/OrganisationsPage"), "OrganisationsPage"),
});
const accessOrganisation = createRoute({
  getParentRoute: () => workspace,
  path: "/access/organisations/$id",
  component: lazyRouteComponent(() => import("./Access/OrganisationPage"), "OrganisationPage"),
});
const accessSeats = createRoute({
  getParentRoute: () => workspace,
  path: "/access/seats",
  component: lazyRouteComponent(() => import("./Access/SeatsPage"), "SeatsPage"),
});
const access = createRoute({
  getParentRoute: () => workspace,
  path: "/access",
  component: lazyRouteComponent(() => import("./Access/AccessNav"), "AccessStart"),
});
const seeAs = createRoute({
  getParentRoute: () => workspace,
  path: "/people/$id/see-as",
  component: lazyRouteComponent(() => import("./Accounts/SeeAsPage"), "SeeAsPage"),
});
const endings = createRoute({
  getParentRoute: () => workspace,
  path: "/endings",
  component: lazyRouteComponent(() => import("./Departures/EndingsPage"), "EndingsPage"),
});
const departure = createRoute({
  getParentRoute: () => workspace,
  path: "/endings/$id",
  component: lazyRouteComponent(() => import("./Departures/DeparturePage"), "DeparturePage"),
});
const receipt = createRoute({
  getParentRoute: () => workspace,
  path: "/endings/$id/receipt",
  component: lazyRouteComponent(() => import("./Departures/ReceiptPage"), "ReceiptPage"),
});
const carried = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts/connections/$id/access",
  component: lazyRouteComponent(() => import("./Accounts/CarriedPage"), "CarriedPage"),
});
const record = createRoute({
  getParentRoute: () => workspace,
  path: "/record",
  loader: ({ params }) => ahead(queries.ensureInfiniteQueryData(pagesOf(...recordOf(params.workspace)))),
  component: lazyRouteComponent(() => import("./Record/RecordPage"), "RecordPage"),
});
const safety = createRoute({
  getParentRoute: () => workspace,
  path: "/record/safety",
  component: lazyRouteComponent(() => import("./Record/SafetyPage"), "SafetyPage"),
});
const settings = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace",
  component: lazyRouteComponent(() => import("./Workspaces/WorkspacePage"), "WorkspacePage"),
});

const rules = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace/rules",
  component: lazyRouteComponent(() => import("./Workspaces/RulesPage"), "RulesPage"),
});
const accounts = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts",
  component: lazyRouteComponent(() => import("./Accounts/ClaimsPage"), "ClaimsPage"),
});
const twice = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts/twice",
  component: lazyRouteComponent(() => import("./Accounts/TwicePage"), "TwicePage"),
});
const merge = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts/twice/$left/$right",
  component: lazyRouteComponent(() => import("./Accounts/MergePage"), "MergePage"),
});
const connections = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts/connections",
  component: lazyRouteComponent(() => import("./Accounts/ConnectionsPage"), "ConnectionsPage"),
});
const matchTable = createRoute({
  getParentRoute: () => workspace,
  path: "/accounts/connections/$id",
  component: lazyRouteComponent(() => import("./Accounts/MatchTablePage"), "MatchTablePage"),
});
const domains = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace/domains",
  component: lazyRouteComponent(() => import("./Workspaces/DomainsPage"), "DomainsPage"),
});
const providers = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace/providers",
  component: lazyRouteComponent(() => import("./Workspaces/ProvidersPage"), "ProvidersPage"),
});

const applications = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace/applications",
  component: lazyRouteComponent(() => import("./Applications/ApplicationsPage"), "ApplicationsPage"),
});
const wording = createRoute({
  getParentRoute: () => workspace,
  path: "/workspace/wording",
  component: lazyRouteComponent(() => import("./Workspaces/WordingPage"), "WordingPage"),
});

export const router = createRouter({
  routeTree: root.addChildren([
    workspace.addChildren([
      overview,
      invite,
      newInvitation,
      inviteMany,
      lists,
      list,
      links,
      link,
      presets,
      figures,
      bounced,
      invitation,
      people,
      person,
      seeAs,
      access,
      accessResources,
      accessResource,
      accessRoles,
      accessGroups,
      accessGroup,
      accessOrganisations,
      accessOrganisation,
      accessSeats,
      accounts,
      twice,
      connections,
      matchTable,
      carried,
      merge,
      endings,
      departure,
      receipt,
      record,
      safety,
      settings,
      rules,
      domains,
      providers,
      applications,
      wording,
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
