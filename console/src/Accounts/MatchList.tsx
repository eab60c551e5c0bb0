import { Button, Checkbox, Select } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { PersonField } from "../Access/PersonField";
import type { RecordDecision, SourceRecord } from "../api";
import { FormDialog } from "../ui/FormDialog";
import { StateWord } from "../ui/StateWord";
import { instantText } from "../ui/words";

const keys: Record<string, string> = { j: "join", b: "bring-in", l: "leave-out", o: "" };
const decisions = [
  { value: "", label: "to be decided" },
  { value: "join", label: "join" },
  { value: "bring-in", label: "bring in" },
  { value: "leave-out", label: "leave out" },
];

type Decide = (decision: RecordDecision) => void;

/** The match table: theirs beside ours, with why; only what is in sight is drawn. */
export function MatchList(props: {
  items: SourceRecord[];
  workspace: string;
  chosen: string[];
  /** Whether nothing can be decided just now. */
  isStill: boolean;
  onChoose: (key: string, isOn: boolean) => void;
  onDecide: Decide;
  /** Called when the end of what was read comes into sight. */
  onEnd: () => void;
}) {
  const holder = useRef<HTMLDivElement>(null);
  const [joining, setJoining] = useState<SourceRecord>();
  const rows = useVirtualizer({
    count: props.items.length,
    getScrollElement: () => holder.current,
    estimateSize: () => 96,
    overscan: 8,
    getItemKey: (at) => props.items[at]?.number ?? at,
  });
  const inSight = rows.getVirtualItems();
  const last = inSight.at(-1)?.index ?? 0;
  const { onEnd } = props;
  useEffect(() => {
    if (last >= props.items.length - 20) onEnd();
  }, [last, props.items.length, onEnd]);
  const focus = (at: number) => {
    const to = Math.max(0, Math.min(at, props.items.length - 1));
    rows.scrollToIndex(to);
    requestAnimationFrame(() => holder.current?.querySelector<HTMLElement>(`[data-index="${to}"]`)?.focus());
  };
  const onKey = (event: KeyboardEvent<HTMLDivElement>, at: number, record: SourceRecord) => {
    // Keys that are pressed in a field or on a button are theirs.
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return;
    const decision = keys[event.key];
    if (event.key === "ArrowDown") focus(at + 1);
    else if (event.key === "ArrowUp") focus(at - 1);
    else if (event.key === " ") props.onChoose(record.key, !props.chosen.includes(record.key));
    else if (decision !== undefined && !props.isStill && isOpen(record)) decideOne(record, decision);
    else return;
    event.preventDefault();
  };
  const decideOne = (record: SourceRecord, decision: string) => {
    if (decision === "join" && !record.person) setJoining(record);
    else props.onDecide({ key: record.key, decision, person: null });
  };
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: the rows are placed by hand, a list's own layout would fight it */}
      <div
        className="sheet long-list"
        ref={holder}
        role="list"
        aria-label="Match table"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a box that scrolls must be reachable by keyboard
        tabIndex={0}
      >
        <div style={{ height: rows.getTotalSize(), position: "relative" }}>
          {inSight.map((row) => {
            const record = props.items[row.index];
            return (
              record && (
                // biome-ignore lint/a11y/useSemanticElements: as above
                <div
                  key={row.key}
                  data-index={row.index}
                  ref={rows.measureElement}
                  className="long-list-row match-row"
                  role="listitem"
                  aria-label={`${record.name}: ${verdictOf(record)}`}
                  // biome-ignore lint/a11y/noNoninteractiveTabindex: one goes from record to record with the arrows
                  tabIndex={0}
                  style={{ transform: `translateY(${row.start}px)` }}
                  onKeyDown={(event) => onKey(event, row.index, record)}
                >
                  <Row
                    record={record}
                    workspace={props.workspace}
                    isChosen={props.chosen.includes(record.key)}
                    isStill={props.isStill}
                    onChoose={(isOn) => props.onChoose(record.key, isOn)}
                    onDecide={(decision) => decideOne(record, decision)}
                    onOther={() => setJoining(record)}
                  />
                </div>
              )
            );
          })}
        </div>
      </div>
      {joining && (
        <FormDialog
          title={`Join ${joining.name} with somebody here`}
          word="Join"
          initial={{ person: joining.person?.address ?? "" }}
          isReady={(values) => values.person.length > 0}
          save={async (values) =>
            props.onDecide({ key: joining.key, decision: "join", person: values.person })
          }
          onClose={() => setJoining(undefined)}
        >
          {(form) => <PersonField label="Who they are here" {...form.getInputProps("person")} />}
        </FormDialog>
      )}
    </>
  );
}

function isOpen(record: SourceRecord) {
  return record.state !== "done" && !record.goneSince;
}

function verdictOf(record: SourceRecord) {
  return record.goneSince ? "gone" : record.verdict;
}

function Row(props: {
  record: SourceRecord;
  workspace: string;
  isChosen: boolean;
  isStill: boolean;
  onChoose: (isOn: boolean) => void;
  onDecide: (decision: string) => void;
  onOther: () => void;
}) {
  const { record } = props;
  const firm = [record.title, record.department, record.organisation].filter(Boolean).join(", ");
  return (
    <>
      <Checkbox
        aria-label={`Choose ${record.name}`}
        checked={props.isChosen}
        disabled={record.state === "done" && !record.goneSince}
        onChange={(event) => props.onChoose(event.currentTarget.checked)}
      />
      <div className="anywhere">
        <strong>{record.name}</strong>
        {record.address !== record.name && <div>{record.address}</div>}
        {firm && <div className="soft">{firm}</div>}
      </div>
      <div>
        <StateWord state={verdictOf(record)} />
        {record.score > 0 && !record.goneSince && (
          <div className="soft">{Math.floor(record.score * 100)} of 100</div>
        )}
      </div>
      <div className="anywhere">
        {record.person && (
          <div>
            <Link to="/w/$workspace/people/$id" params={{ workspace: props.workspace, id: record.person.id }}>
              {record.person.name}
            </Link>{" "}
            {record.person.address !== record.address && (
              <span className="soft">{record.person.address}</span>
            )}
          </div>
        )}
        {record.problem && <div style={{ color: "var(--aboard-bad)" }}>{record.problem.title}</div>}
        {record.goneSince ? (
          <div className="soft">
            gone there since {instantText(record.goneSince)}; {record.reasons.slice(0, 2).join("; ")}
          </div>
        ) : (
          <div className="soft">{record.reasons.slice(0, 3).join("; ")}</div>
        )}
        {record.changes.map((change) => (
          <div key={change.field}>
            {change.field}: {change.before && <s className="soft">{change.before}</s>} {change.after}
          </div>
        ))}
      </div>
      <div>
        {record.goneSince ? (
          <Button
            size="xs"
            variant="default"
            disabled={props.isStill}
            onClick={() => props.onDecide(record.staysBy ? "" : "stays")}
          >
            {record.staysBy ? "Look at it again" : "They stay"}
          </Button>
        ) : record.state === "done" ? (
          <span className="soft">{record.invitationId && !record.person ? "invited" : "done"}</span>
        ) : (
          <>
            <Select
              aria-label={`What is to be done with ${record.name}`}
              data={decisions}
              value={record.decision}
              disabled={props.isStill}
              onChange={(decision) => props.onDecide(decision ?? "")}
              allowDeselect={false}
              size="xs"
            />
            <Button size="compact-xs" variant="subtle" disabled={props.isStill} onClick={props.onOther}>
              Somebody else …
            </Button>
            {record.decidedBy && <div className="soft">said {record.decidedBy}</div>}
          </>
        )}
      </div>
    </>
  );
}
