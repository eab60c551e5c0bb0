import { Button, Checkbox, Group, Radio, Skeleton, Stack, Text, Title } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, type Merge, Refused, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountsNav } from "./AccountsNav";

const path = "/api/v1/workspaces/{workspace}/merges";

type Wish = { keep: string | undefined; take: string[]; gains: string[] };

/** Two accounts that are to become one: every field side by side, what comes over, what is left out, what is lost. */
export function MergePage() {
  const { workspace } = useWorkspace();
  const { left, right } = useParams({ from: "/w/$workspace/accounts/twice/$left/$right" });
  const [wish, setWish] = useState<Wish>({ keep: undefined, take: [], gains: [] });
  const queries = useQueryClient();
  const navigate = useNavigate();
  const body = { left, right, keep: wish.keep ?? null, take: wish.take, gains: wish.gains, withGains: false };
  const call = (dryRun: boolean) =>
    take(
      api.POST(path, { params: { path: { workspace }, query: { dryRun: dryRun ? "true" : "false" } }, body }),
    );
  const plan = useQuery({
    queryKey: [workspace, "merge", left, right, wish],
    queryFn: () => call(true),
    retry: false,
    placeholderData: (before) => before,
  });
  const merge = useMutation({
    mutationFn: () => call(false),
    onSuccess: async (done) => {
      notifications.show({
        message: `${done.kept.name} and ${done.gone.name} are one. They can be parted again until ${instantText(done.until ?? "")}.`,
      });
      await queries.invalidateQueries({ queryKey: [workspace] });
      await navigate({ to: "/w/$workspace/people/$id", params: { workspace, id: done.kept.member ?? left } });
    },
  });
  const apart = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/duplicates/distinct", {
          params: { path: { workspace } },
          body: { left, right, reason: null, takesBack: false, onPurpose: true },
        }),
      ),
    onSuccess: async () => {
      notifications.show({ message: "They are one person in two capacities, and are not brought up again." });
      await queries.invalidateQueries({ queryKey: [workspace] });
      await navigate({ to: "/w/$workspace/accounts/twice", params: { workspace } });
    },
  });
  const data = plan.data;
  const isSettled = !plan.isPlaceholderData && !plan.isFetching;
  return (
    <Page title="Make two accounts one">
      <AccountsNav />
      <Refusal of={plan.error ?? merge.error ?? apart.error} isForetold={plan.error !== null} />
      {!data && !plan.error && <Skeleton height={320} />}
      {data && (
        <Stack>
          <WhoStays
            plan={data}
            chosen={wish.keep ?? data.kept.address}
            onKeep={(keep) => setWish({ keep, take: [], gains: [] })}
          />
          {data.twoCapacities && (
            <section className="sheet" aria-labelledby="capacities">
              <Group justify="space-between" align="center">
                <div style={{ flex: 1, minWidth: 220 }}>
                  <Title order={2} size="h3" id="capacities">
                    Two capacities
                  </Title>
                  <Text size="sm">{data.twoCapacities}</Text>
                </div>
                <Button variant="default" loading={apart.isPending} onClick={() => apart.mutate()}>
                  Keep them apart
                </Button>
              </Group>
            </section>
          )}
          <Fields plan={data} wish={wish} onWish={setWish} />
          <Comes plan={data} wish={wish} onWish={setWish} />
          {data.problem && <Refusal of={new Refused(data.problem)} isForetold />}
          <Group justify="flex-end">
            <Button
              variant="default"
              onClick={() => navigate({ to: "/w/$workspace/accounts/twice", params: { workspace } })}
            >
              Leave them as they are
            </Button>
            <Button
              color="alarm"
              disabled={Boolean(data.problem) || !isSettled}
              loading={merge.isPending}
              onClick={() => merge.mutate()}
            >
              Make them one
            </Button>
          </Group>
        </Stack>
      )}
    </Page>
  );
}

function WhoStays(props: { plan: Merge; chosen: string; onKeep: (address: string) => void }) {
  const { plan } = props;
  // Each stays where it stands, whichever is chosen.
  const [first] = useState(plan.kept.address);
  const both = plan.kept.address === first ? [plan.kept, plan.gone] : [plan.gone, plan.kept];
  return (
    <section className="sheet" aria-labelledby="who-stays">
      <Title order={2} size="h3" id="who-stays">
        Which account stays
      </Title>
      <Text className="soft" size="sm">
        Its ways in are those that count. The addresses of the other lead to it; the other's ways in rest.
        {plan.because && ` Proposed: ${plan.kept.address}, ${plan.because}.`}
      </Text>
      <Radio.Group value={props.chosen} onChange={props.onKeep} mt="xs" aria-labelledby="who-stays">
        <div className="two-columns">
          {both.map((one) => (
            <Radio
              key={one.address}
              value={one.address}
              label={one.name}
              description={one.address}
              style={{ overflowWrap: "anywhere" }}
            />
          ))}
        </div>
      </Radio.Group>
    </section>
  );
}

function Fields(props: { plan: Merge; wish: Wish; onWish: (wish: Wish) => void }) {
  const { plan, wish } = props;
  const [isAll, setAll] = useState(false);
  if (plan.fields.length === 0) return null;
  const differ = plan.fields.filter((field) => field.kept !== field.gone);
  const shown = isAll ? plan.fields : differ;
  const choose = (field: string, takes: boolean) =>
    props.onWish({
      ...wish,
      keep: plan.kept.address,
      take: takes ? [...wish.take, field] : wish.take.filter((one) => one !== field),
    });
  return (
    <section className="sheet" aria-labelledby="fields">
      <Group justify="space-between">
        <Title order={2} size="h3" id="fields">
          Side by side
        </Title>
        {differ.length < plan.fields.length && (
          <Button variant="subtle" size="compact-sm" onClick={() => setAll(!isAll)}>
            {isAll ? "Only what differs" : `All ${plan.fields.length} fields`}
          </Button>
        )}
      </Group>
      {shown.length === 0 && <Text className="soft">Everything is the same on both sides.</Text>}
      <table className="side-by-side" aria-labelledby="fields">
        <thead>
          <tr className="soft">
            <th scope="col">Field</th>
            <th scope="col">{plan.kept.address}</th>
            <th scope="col">{plan.gone.address}</th>
            <th scope="col">Why</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((field) => (
            <tr key={field.field}>
              <th scope="row">{field.field}</th>
              <Side
                name={field.field}
                who={plan.kept.address}
                value={field.kept}
                isChosen={field.chosen === field.kept && field.kept !== field.gone}
                canChoose={field.canBeTaken && wish.take.includes(field.field)}
                onChoose={() => choose(field.field, false)}
              />
              <Side
                name={field.field}
                who={plan.gone.address}
                value={field.gone}
                isChosen={field.chosen === field.gone && field.kept !== field.gone}
                canChoose={field.canBeTaken && field.chosen !== field.gone}
                onChoose={() => choose(field.field, true)}
              />
              <td className="soft">{field.why}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What stands on one side; what is left stands struck through beside it, and can be chosen where that is possible. */
function Side(props: {
  name: string;
  who: string;
  value: string;
  isChosen: boolean;
  canChoose: boolean;
  onChoose: () => void;
}) {
  const { value, isChosen } = props;
  return (
    <td data-who={props.who}>
      {isChosen ? (
        <strong>
          <span aria-hidden>✓ </span>
          <span className="visually-hidden">stays: </span>
          {value || "–"}
        </strong>
      ) : (
        <span className="soft">{value || "–"}</span>
      )}
      {props.canChoose && (
        <Button
          variant="subtle"
          size="compact-xs"
          ml={6}
          aria-label={`take this: the ${props.name} of ${props.who}`}
          onClick={props.onChoose}
        >
          take this
        </Button>
      )}
    </td>
  );
}

function Comes(props: { plan: Merge; wish: Wish; onWish: (wish: Wish) => void }) {
  const { plan, wish } = props;
  const steps = plan.steps.filter((step) => step.deed !== "field" || step.gains.length > 0);
  const plain = steps.filter((step) => step.gains.length === 0);
  const gaining = steps.filter((step) => step.gains.length > 0);
  return (
    <section className="sheet" aria-labelledby="comes">
      <Title order={2} size="h3" id="comes">
        What comes over from {plan.gone.address}
      </Title>
      {steps.length === 0 && <Text className="soft">Nothing is given to it beyond what the other has.</Text>}
      {plain.length > 0 && (
        <ul className="follows">
          {plain.map((step) => (
            <li key={step.key}>{step.sentence}</li>
          ))}
        </ul>
      )}
      {gaining.length > 0 && (
        <>
          <Title order={3} size="h4" mt="sm">
            What neither could do before
          </Title>
          <Text className="soft" size="sm">
            It is left out, unless you give it.
          </Text>
          {gaining.map((step) => (
            <div key={step.key} className="gaining">
              <Checkbox
                label={step.sentence}
                checked={wish.gains.includes(step.key)}
                onChange={(event) =>
                  props.onWish({
                    ...wish,
                    keep: plan.kept.address,
                    gains: event.currentTarget.checked
                      ? [...wish.gains, step.key]
                      : wish.gains.filter((one) => one !== step.key),
                  })
                }
              />
              <ul className="follows">
                {step.gains.map((gain) => (
                  <li key={gain}>gives {gain}</li>
                ))}
              </ul>
            </div>
          ))}
        </>
      )}
      {plan.losses.length > 0 && (
        <>
          <Title order={3} size="h4" mt="sm">
            What is lost
          </Title>
          <ul className="follows">
            {plan.losses.map((loss) => (
              <li key={loss}>{loss}</li>
            ))}
          </ul>
        </>
      )}
      <ul className="follows soft">
        {plan.elsewhere > 0 && (
          <li>
            {plan.elsewhere === 1
              ? "1 other workspace is untouched; whoever looks after it is told."
              : `${plan.elsewhere} other workspaces are untouched; whoever looks after them is told.`}
          </li>
        )}
        {plan.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
        <li>For 30 days the two can be parted again.</li>
      </ul>
    </section>
  );
}
