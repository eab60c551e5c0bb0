import { Alert, Button, Checkbox, Group, Select, Stack, Text, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Claim, type ClaimResult, Refused, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { NumberField } from "../ui/NumberField";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { StateWord } from "../ui/StateWord";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountDialog } from "./AccountDialog";
import { AccountsNav } from "./AccountsNav";

const path = "/api/v1/workspaces/{workspace}/claims";
const states = ["found", "asked", "agreed", "declined", "unanswered", "taken", "released", "dropped"];
const verbs: Record<string, string> = {
  ask: "Ask them",
  "ask-again": "Ask again",
  cancel: "Withdraw the question",
  take: "Take",
  release: "Take back the address, or give custody up",
};

/** What can be done with an account that is held. */
const heldVerbs: Record<string, string> = {
  pause: "Pause the account",
  resume: "Let it be used again",
  close: "Close the account for good",
};

/** What follows from it, as it is said beforehand. */
const heldFollows: Record<string, string[]> = {
  pause: [
    "Nobody signs in with it, here or elsewhere, and its holder's programs stop here.",
    "What its holder is in other workspaces is left as it is.",
  ],
  resume: ["It can be signed in to again; what its holder may do is as it was."],
  close: ["Its ways in are gone for good; the address is free for a new account."],
};

/** What can be done with an account: the steps of its claim, and those with an account that is held. */
function stepsOf(claim: Claim) {
  if (claim.state !== "taken") return claim.can;
  return [...claim.can, ...(claim.paused ? ["resume"] : ["pause"]), "close"];
}

/** The accounts at the proved domains: who holds them, and the steps by which they come into custody. */
export function ClaimsPage() {
  const { workspace } = useWorkspace();
  const [state, setState] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [action, setAction] = useState("ask");
  const [noticeDays, setNoticeDays] = useState(14);
  const [atOnce, setAtOnce] = useState(false);
  const [reason, setReason] = useState("");
  const [making, setMaking] = useState(false);
  const queries = useQueryClient();
  const claims = useQuery({
    queryKey: [workspace, "claims", state],
    queryFn: () =>
      take(
        api.GET(path, { params: { path: { workspace }, query: { state: state || undefined, limit: 200 } } }),
      ),
  });
  const params = (dryRun: boolean) => ({ path: { workspace }, query: { dryRun: dryRun ? "true" : "false" } });
  const call = async (dryRun: boolean): Promise<Pick<ClaimResult, Shown>[]> => {
    if (action in heldVerbs) {
      const results = [];
      for (const address of chosen) results.push(await stepHeld(address, action, params(dryRun)));
      return results;
    }
    const answer = await take(
      api.POST(`${path}/steps`, {
        params: params(dryRun),
        body: {
          action,
          atOnce: action === "ask" && atOnce,
          addresses: chosen,
          ...(action.startsWith("ask") ? { noticeDays, reason } : {}),
        },
      }),
    );
    return answer.results;
  };
  const plan = useQuery({
    queryKey: [workspace, "claims", "plan", action, noticeDays, atOnce, reason, chosen],
    queryFn: () => call(true),
    enabled: chosen.length > 0,
  });
  const step = useMutation({
    mutationFn: () => call(false),
    onSuccess: async () => {
      // First: whoever chooses the next while the lists are fetched again keeps what they chose.
      setChosen([]);
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  const items = claims.data?.items;
  const allVerbs = { ...verbs, ...heldVerbs };
  const possible = Object.keys(allVerbs).filter((verb) =>
    (items ?? []).some((claim) => chosen.includes(claim.address) && stepsOf(claim).includes(verb)),
  );
  const choose = (address: string, on: boolean) => {
    const next = on ? [...chosen, address] : chosen.filter((one) => one !== address);
    setChosen(next);
    const first = (items ?? []).find((claim) => next.includes(claim.address));
    if (first && stepsOf(first).length > 0) setAction(stepsOf(first)[0] ?? "ask");
  };
  return (
    <Page
      title="Accounts"
      actions={
        <>
          <CsvLink workspace={workspace} list="claims?format=csv" />
          <Button onClick={() => setMaking(true)}>Make an account</Button>
        </>
      }
    >
      <AccountsNav />
      {making && <AccountDialog onClose={() => setMaking(false)} />}
      <Text className="soft">
        Accounts that people have at the mail domains this workspace has proved. A personal account can be
        asked into the workspace's custody; its holder decides.
      </Text>
      <Select
        label="How it stands"
        data={[{ value: "", label: "all" }, ...states]}
        value={state}
        onChange={(value) => {
          setState(value ?? "");
          setChosen([]);
        }}
        allowDeselect={false}
        w={220}
      />
      <Refusal of={claims.error} />
      {step.data && <Results results={step.data} />}
      {chosen.length > 0 && (
        <section className="sheet" aria-label="A step with those chosen">
          <Stack gap="sm">
            <Group align="end">
              <Select
                label={`With ${chosen.length === 1 ? chosen[0] : `${chosen.length} accounts`}`}
                data={(possible.length > 0 ? possible : ["ask"]).map((verb) => ({
                  value: verb,
                  label: allVerbs[verb as keyof typeof allVerbs] ?? verb,
                }))}
                value={action}
                onChange={(value) => setAction(value ?? "ask")}
                allowDeselect={false}
                maw={320}
              />
              {action.startsWith("ask") && !(action === "ask" && atOnce) && (
                <NumberField
                  label="Days to answer"
                  min={1}
                  max={90}
                  value={noticeDays}
                  onChange={setNoticeDays}
                  w={140}
                />
              )}
            </Group>
            {action === "ask" && (
              <Checkbox
                label="They sit beside me: a quarter of an hour to answer"
                description="What is in no other workspace and was unused for a year is taken without asking."
                checked={atOnce}
                onChange={(event) => setAtOnce(event.currentTarget.checked)}
              />
            )}
            {action.startsWith("ask") && (
              <Textarea
                label="Why, as the holder reads it"
                maxLength={500}
                autosize
                minRows={2}
                value={reason}
                onChange={(event) => setReason(event.currentTarget.value)}
              />
            )}
            <Refusal of={plan.error ?? step.error} isForetold={!step.error} />
            {plan.data && <Results results={plan.data} isPlan />}
            <Group>
              <Button
                onClick={() => step.mutate()}
                loading={step.isPending}
                disabled={!plan.data?.some((one) => one.done)}
              >
                {allVerbs[action as keyof typeof allVerbs]}
              </Button>
              <Button variant="default" onClick={() => setChosen([])}>
                Leave it
              </Button>
            </Group>
          </Stack>
        </section>
      )}
      <SimpleTable<Claim>
        rows={items}
        keyOf={(claim) => claim.address}
        label="Accounts"
        nothing={
          state
            ? "There is none that stands so."
            : "There is no account at a proved domain. Prove one under Workspace, Mail domains."
        }
        columns={[
          {
            head: "Chosen",
            isHeadHidden: true,
            cell: (claim) => (
              <Checkbox
                aria-label={`Choose ${claim.address}`}
                checked={chosen.includes(claim.address)}
                disabled={stepsOf(claim).length === 0}
                onChange={(event) => choose(claim.address, event.currentTarget.checked)}
              />
            ),
          },
          {
            head: "Account",
            cell: (claim) => (
              <>
                <strong>{claim.name}</strong>
                <div className="soft">{claim.address}</div>
              </>
            ),
          },
          {
            head: "How it stands",
            cell: (claim) => (
              <>
                <StateWord state={claim.state} />
                {claim.paused && <div className="soft">paused</div>}
                {claim.atOnce && <div className="soft">in the same sitting</div>}
              </>
            ),
          },
          {
            head: "Until",
            isOneLine: true,
            cell: (claim) => (claim.deadline ? instantText(claim.deadline) : ""),
          },
          { head: "Other workspaces", isNumber: true, cell: (claim) => claim.workspaces },
          { head: "Last used", isOneLine: true, cell: (claim) => instantText(claim.lastUsedAt) },
        ]}
      />
    </Page>
  );
}

type Shown = "address" | "done" | "sentence" | "follows";

/** Takes a step with an account that is held, or tries it; a refusal is said like any other result. */
async function stepHeld(
  address: string,
  step: string,
  params: { path: { workspace: string }; query: { dryRun: string } },
): Promise<Pick<ClaimResult, Shown>> {
  try {
    const account = await take(
      api.POST("/api/v1/workspaces/{workspace}/accounts/steps", { params, body: { address, step } }),
    );
    const count = account.signInsClosed;
    const closed =
      count === 0 ? "no sign-in was open" : count === 1 ? "1 sign-in closed" : `${count} sign-ins closed`;
    return {
      address,
      done: true,
      sentence: `${account.name}'s account is ${account.standing}; ${closed}.`,
      follows: [...(heldFollows[step] ?? []), "Its holder is told by mail."],
    };
  } catch (fault) {
    if (!(fault instanceof Refused)) throw fault;
    const { title, detail } = fault.problem;
    return { address, done: false, sentence: `${title} ${detail ?? ""}`, follows: [] };
  }
}

function Results({ results, isPlan }: { results: Pick<ClaimResult, Shown>[]; isPlan?: boolean }) {
  const refused = results.filter((one) => !one.done);
  const done = results.filter((one) => one.done);
  return (
    <>
      {done.length > 0 && (
        <Alert color={isPlan ? "brass" : "fair"} variant="light" title={isPlan ? "What will be" : "Done"}>
          {done.map((one) => (
            <div key={one.address}>
              {one.address}: {one.sentence}
              {isPlan && one.follows && (
                <ul className="follows">
                  {one.follows.map((sentence) => (
                    <li key={sentence}>{sentence}</li>
                  ))}
                </ul>
              )}
            </div>
          ))}
        </Alert>
      )}
      {refused.length > 0 && (
        <Alert color="brass" variant="light" title="What cannot be done">
          {refused.map((one) => (
            <div key={one.address}>
              {one.address}: {one.sentence}
            </div>
          ))}
        </Alert>
      )}
    </>
  );
}
