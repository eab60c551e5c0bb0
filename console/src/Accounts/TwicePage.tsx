import { Button, Group, Kbd, Select, Text, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { api, type Duplicate, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { StateWord } from "../ui/StateWord";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccountsNav } from "./AccountsNav";
import { MergedList } from "./MergedList";

const path = "/api/v1/workspaces/{workspace}/duplicates";
const choices = [
  { value: "likely", label: "likely and same" },
  { value: "same", label: "same" },
  { value: "distinct", label: "said to be two, or one on purpose" },
  { value: "merged", label: "made one" },
];

type Twin = Duplicate["left"];

const keyOf = (pair: Duplicate) => `${pair.left.id} ${pair.right.id}`;

/** People who may be here twice: a list to work through, with the keyboard as well. */
export function TwicePage() {
  const { workspace } = useWorkspace();
  const [choice, setChoice] = useState("likely");
  const [said, setSaid] = useState<Duplicate>();
  const queries = useQueryClient();
  const list = useRef<HTMLOListElement>(null);
  /** Which pair gets the focus once the list is as it is now: the same again, else the one that took its place. */
  const next = useRef<{ key: string; at: number }>(undefined);
  const query = choice === "distinct" ? { said: "distinct" } : { least: choice };
  const pairs = useQuery({
    queryKey: [workspace, "duplicates", choice],
    queryFn: () => take(api.GET(path, { params: { path: { workspace }, query: { ...query, limit: 200 } } })),
    enabled: choice !== "merged",
  });
  const items = pairs.data?.items;
  const distinguish = useMutation({
    mutationFn: (wish: { pair: Duplicate; reason?: string; takesBack: boolean }) =>
      take(
        api.POST(`${path}/distinct`, {
          params: { path: { workspace } },
          body: {
            left: wish.pair.left.id,
            right: wish.pair.right.id,
            reason: wish.reason,
            takesBack: wish.takesBack,
            onPurpose: false,
          },
        }),
      ),
    onSuccess: async (pair, wish) => {
      setSaid(wish.takesBack ? undefined : pair);
      next.current = {
        key: keyOf(wish.pair),
        at: (items ?? []).findIndex((one) => keyOf(one) === keyOf(wish.pair)),
      };
      await queries.invalidateQueries({ queryKey: [workspace] });
    },
  });
  /** The pair at a place gets the focus; the last one where there are not as many. */
  const focusAt = (at: number) => {
    const items = list.current?.querySelectorAll<HTMLElement>(":scope > li") ?? [];
    items[Math.max(0, Math.min(at, items.length - 1))]?.focus();
  };
  useEffect(() => {
    if (!items || !next.current) return;
    const { key, at } = next.current;
    const same = items.findIndex((one) => keyOf(one) === key);
    next.current = undefined;
    const shown = list.current?.querySelectorAll<HTMLElement>(":scope > li") ?? [];
    shown[Math.max(0, same >= 0 ? same : Math.min(at, shown.length - 1))]?.focus();
  }, [items]);
  const onKey = (event: KeyboardEvent<HTMLLIElement>, at: number, pair: Duplicate) => {
    // Keys that are pressed in a field or on a button of a pair are theirs.
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "ArrowDown") focusAt(at + 1);
    else if (event.key === "ArrowUp") focusAt(at - 1);
    else if (event.key === "Home") focusAt(0);
    else if (event.key === "End") focusAt(Number.MAX_SAFE_INTEGER);
    else if (event.key === "t" && !pair.distinct && !distinguish.isPending)
      distinguish.mutate({ pair, takesBack: false });
    else return;
    event.preventDefault();
  };
  return (
    <Page
      title="Twice here"
      actions={
        <CsvLink
          workspace={workspace}
          list={
            choice === "merged"
              ? "merges?format=csv"
              : `duplicates?format=csv&${choice === "distinct" ? "said=distinct" : `least=${choice}`}`
          }
        />
      }
    >
      <AccountsNav />
      <Text className="soft">
        People here who may be one human. What counts is what stands in this workspace: names, addresses,
        organisations, job titles. Nothing is put together by itself.
      </Text>
      <Select
        label="Show"
        data={choices}
        value={choice}
        onChange={(value) => {
          setChoice(value ?? "likely");
          setSaid(undefined);
        }}
        allowDeselect={false}
        w={220}
      />
      <Refusal of={pairs.error ?? distinguish.error} />
      <div role="status">
        {said && (
          <Group className="sheet" justify="space-between">
            <Text>
              {said.left.name} and {said.right.name} are two people. They are not brought up again.
            </Text>
            <Button
              variant="default"
              size="xs"
              onClick={() => distinguish.mutate({ pair: said, takesBack: true })}
            >
              Take back
            </Button>
          </Group>
        )}
      </div>
      {choice === "merged" && <MergedList />}
      {items?.length === 0 && (
        <Text className="soft">
          {choice === "distinct"
            ? "Of nobody was it said that they are two people."
            : "Nobody was found who is here twice."}
        </Text>
      )}
      {items && items.length > 0 && (
        <>
          <Text size="sm" className="soft">
            With the keyboard: <Kbd>↓</Kbd> <Kbd>↑</Kbd> from pair to pair
            {choice !== "distinct" && (
              <>
                , <Kbd>T</Kbd> says that they are two
              </>
            )}
            .
          </Text>
          <ol className="pairs" ref={list} aria-label="Pairs">
            {items.map((pair, at) => (
              <li
                key={keyOf(pair)}
                className="sheet"
                // biome-ignore lint/a11y/noNoninteractiveTabindex: one goes from pair to pair with the arrows
                tabIndex={0}
                aria-label={`${pair.left.name} and ${pair.right.name}: ${pair.verdict}`}
                onKeyDown={(event) => onKey(event, at, pair)}
              >
                <Pair
                  pair={pair}
                  workspace={workspace}
                  isBusy={distinguish.isPending}
                  onSaid={(reason) => distinguish.mutate({ pair, reason, takesBack: Boolean(pair.distinct) })}
                />
              </li>
            ))}
          </ol>
        </>
      )}
    </Page>
  );
}

function Pair(props: {
  pair: Duplicate;
  workspace: string;
  isBusy: boolean;
  onSaid: (reason: string) => void;
}) {
  const { pair, workspace } = props;
  const [reason, setReason] = useState("");
  return (
    <>
      <Group justify="space-between" mb="xs">
        <strong>
          <StateWord state={pair.verdict} />
        </strong>
        <span className="soft">{Math.floor(pair.score * 100)} of 100</span>
      </Group>
      <div className="two-columns">
        <One of={pair.left} workspace={workspace} />
        <One of={pair.right} workspace={workspace} />
      </div>
      {pair.reasons.length > 0 && (
        <ul className="follows">
          {pair.reasons.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      )}
      {pair.distinct ? (
        <Group justify="space-between" mt="sm">
          <Text>
            {pair.distinct.onPurpose ? "One person in two capacities" : "Two people"}, said {pair.distinct.by}
            , {instantText(pair.distinct.at)}
            {pair.distinct.reason && `: ${pair.distinct.reason}`}
          </Text>
          <Button variant="default" loading={props.isBusy} onClick={() => props.onSaid("")}>
            Take back
          </Button>
        </Group>
      ) : (
        <Group align="end" mt="sm">
          <Button component={Link} to={`/w/${workspace}/accounts/twice/${pair.left.id}/${pair.right.id}`}>
            Make them one
          </Button>
          <TextInput
            label="Why they are two, for the record"
            maxLength={500}
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
            style={{ flex: 1, minWidth: 200 }}
          />
          <Button variant="default" loading={props.isBusy} onClick={() => props.onSaid(reason)}>
            They are two people
          </Button>
        </Group>
      )}
    </>
  );
}

function One({ of, workspace }: { of: Twin; workspace: string }) {
  const firm = [of.title, of.organisation].filter(Boolean).join(", ");
  return (
    <div>
      <Link to="/w/$workspace/people/$id" params={{ workspace, id: of.id }}>
        {of.name}
      </Link>
      <div style={{ overflowWrap: "anywhere" }}>{of.address}</div>
      <div className="soft">
        {of.kind}
        {firm && `, ${firm}`}
      </div>
      <div className="soft">
        joined {instantText(of.joinedAt)}
        {of.lastSeenAt ? `, last here ${instantText(of.lastSeenAt)}` : ", never here"}
        {of.isHeld && ", held by this workspace"}
      </div>
    </div>
  );
}
