import { Timeline } from "@mantine/core";
import type { RecordEntry } from "../api";
import { actionText, changesOf, instantText } from "./words";

/** What happened, step by step, with who and when. */
export function History({ entries }: { entries: RecordEntry[] }) {
  return (
    <Timeline bulletSize={14} lineWidth={2} active={entries.length}>
      {entries.map((entry) => (
        <Timeline.Item key={entry.sequence} title={actionText(entry.action)}>
          <span className="soft">
            {instantText(entry.at)} · {entry.actorName ?? entry.actor} · through {entry.via}
          </span>
          {changesOf(entry).map((change) => (
            <div key={change}>{change}</div>
          ))}
        </Timeline.Item>
      ))}
    </Timeline>
  );
}
