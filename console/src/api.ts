import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./generated/schema";

type Schemas = components["schemas"];
export type Claim = Schemas["ClaimView"];
export type Connection = Schemas["ConnectionView"];
export type SourceRecord = Schemas["SourceRecordView"];
export type RecordDecision = Schemas["RecordDecision"];
export type Duplicate = Schemas["DuplicateView"];
export type Merge = Schemas["MergeView"];
export type ClaimResult = Schemas["ClaimResult"];
export type Domain = Schemas["DomainView"];
export type Application = Schemas["ApplicationView"];
export type NewApplication = Schemas["NewApplication"];
export type Provider = Schemas["ProviderView"];
export type Invitation = Schemas["InvitationView"];
export type InvitationRequest = Schemas["InvitationRequest"];
export type InvitationPreview = Schemas["InvitationPreview"];
export type Batch = Schemas["BatchView"];
export type BatchEntry = Schemas["BatchEntryView"];
export type BatchDefaults = Schemas["BatchDefaults"];
export type JoinLink = Schemas["JoinLinkView"];
export type NewJoinLink = Schemas["NewJoinLink"];
export type Preset = Schemas["PresetView"];
export type Figures = Schemas["FiguresView"];
export type Rules = Schemas["RulesView"];
export type Wording = Schemas["WordingView"];
export type StepsAnswer = Schemas["StepsAnswer"];
export type Person = Schemas["PersonView"];
export type Lane = Schemas["LaneView"];
export type MappingLine = Schemas["MappingView"];
export type AccountThere = Schemas["AccountThereView"];
export type LeftOver = Schemas["LeftOverView"];
export type EventSent = Schemas["EventSentView"];
export type PushPreview = Schemas["PushPreview"];
export type Reinstated = Schemas["ReinstateView"];
export type Erased = Schemas["ErasedView"];
export type Departure = Schemas["DepartureView"];
export type RecordEntry = Schemas["RecordEntryView"];
export type Problem = Schemas["Problem"];
export type Workspace = Schemas["WorkspaceView"];
export type Area = Schemas["AreaView"];
export type Bundle = Schemas["BundleView"];
export type Resource = Schemas["ResourceView"];
export type AccessLine = Schemas["AccessLine"];
export type Path = Schemas["PathView"];
export type Difference = Schemas["DifferenceView"];
export type Grant = Schemas["GrantView"];
export type Role = Schemas["RoleDetail"];
export type RoleChange = Schemas["RoleChange"];
export type Organisation = Schemas["OrganisationView"];
export type Off = Schemas["SwitchedOffView"];
export type AccessGroup = Schemas["GroupView"];
export type Pool = Schemas["PoolView"];
export type PersonAccess = Schemas["PersonAccess"];
export type Suggestion = Schemas["SuggestionView"];
export type Blocker = Schemas["BlockerView"];

/** The service said no; the problem says why and what to do. */
export class Refused extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.title);
    this.problem = problem;
  }
}

let formToken: Promise<string> | undefined;

/** The token by which a change shows that it comes from our own page. */
function antiforgery(): Promise<string> {
  formToken ??= fetch("/api/v1/antiforgery")
    .then((answer) => answer.json())
    .then((answer: { token: string }) => answer.token);
  return formToken;
}

const session: Middleware = {
  async onRequest({ request }) {
    if (request.method !== "GET") {
      request.headers.set("X-Antiforgery", await antiforgery());
    }
    return request;
  },
  onResponse({ response }) {
    if (response.status === 401) signIn();
  },
};

export const api = createClient<paths, "application/json">();
api.use(session);

/** Leaves for the sign-in page, which leads back here. */
export function signIn() {
  const here = window.location.pathname + window.location.search;
  window.location.assign(`/sign-in?next=${encodeURIComponent(here)}`);
}

/** The value of an answer; throws what stands in its place. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (response.ok) return data as T;
  const problem = error as Problem | undefined;
  throw new Refused(
    problem?.code
      ? problem
      : {
          type: null,
          title: "The service did not answer as expected.",
          detail: "Try again; if it stays so, tell the operator.",
          status: response.status,
          code: "server.answer",
          field: null,
          related: null,
        },
  );
}

/** What every call about a workspace has in its path. */
export function inWorkspace(workspace: string) {
  return { params: { path: { workspace } } };
}

/** Hands in a file with fields beside it. */
export async function upload<T>(path: string, fields: Record<string, string | File>): Promise<T> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  const response = await fetch(path, {
    method: "POST",
    body: form,
    headers: { "X-Antiforgery": await antiforgery() },
  });
  const body = await response.json();
  return take<T>(Promise.resolve(response.ok ? { data: body, response } : { error: body, response }));
}
