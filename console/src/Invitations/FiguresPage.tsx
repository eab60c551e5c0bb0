import { Group, Skeleton, Table, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { api, type Figures, take } from "../api";
import { DayField } from "../ui/DayField";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { dayText, hoursText, numberText, shareText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { InviteNav } from "./InviteNav";

/** How invitations were answered: over time, and by kind, host and organisation. */
export function FiguresPage() {
  const { workspace, today } = useWorkspace();
  const [from, setFrom] = useState("");
  const [until, setUntil] = useState("");
  const query = { from: from || undefined, until: until || undefined };
  const figures = useQuery({
    queryKey: [workspace, "figures", query],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/invitations/figures", {
          params: { path: { workspace }, query },
        }),
      ),
    placeholderData: (before) => before,
  });
  const asCsv = new URLSearchParams(Object.entries(query).filter(([, day]) => day) as [string, string][]);
  const view = figures.data;
  return (
    <Page title="Figures">
      <InviteNav />
      <Group justify="space-between" align="end">
        <Group>
          <DayField label="From" max={today} value={from || (view?.from ?? "")} onChange={setFrom} />
          <DayField label="Until" value={until || (view?.until ?? "")} onChange={setUntil} />
        </Group>
        <a href={`/api/v1/workspaces/${workspace}/invitations/figures?format=csv&${asCsv}`} download>
          Save these figures as CSV
        </a>
      </Group>
      <Refusal of={figures.error} />
      {!view && !figures.error && <Skeleton height={260} />}
      {view && (
        <>
          <div className="two-columns">
            <section className="sheet" aria-labelledby="over-time">
              <Title order={2} size="h4" id="over-time" mb="sm">
                Sent and answered over time
              </Title>
              <OverTime view={view} />
            </section>
            <section className="sheet" aria-labelledby="by-kind">
              <Title order={2} size="h4" id="by-kind" mb="sm">
                Answered, by kind
              </Title>
              <ByKind view={view} />
            </section>
          </div>
          <div className="sheet table-holder">
            <Groups view={view} />
          </div>
        </>
      )}
    </Page>
  );
}

/** Names beside the colours stay readable, whatever the colour. */
const inInk = (name: unknown) => <span style={{ color: "var(--aboard-ink)" }}>{String(name)}</span>;

/** Days where the span is short, weeks where it is long. */
function OverTime({ view }: { view: Figures }) {
  const step = view.days.length > 45 ? 7 : 1;
  const bars = [];
  for (let i = 0; i < view.days.length; i += step) {
    const span = view.days.slice(i, i + step);
    const sum = (name: "sent" | "accepted" | "declined") => span.reduce((total, day) => total + day[name], 0);
    bars.push({
      name: dayText(span[0]?.day ?? view.from).replace(/ \d{4}$/, ""),
      Sent: sum("sent"),
      Accepted: sum("accepted"),
      Declined: sum("declined"),
    });
  }
  return (
    <div
      className="chart"
      role="img"
      aria-label={`From ${dayText(view.from)} to ${dayText(view.until)}: ${view.total.sent} sent, ${view.total.accepted} accepted, ${view.total.declined} declined`}
    >
      <ResponsiveContainer>
        <BarChart data={bars}>
          <CartesianGrid stroke="var(--aboard-hair)" vertical={false} />
          <XAxis dataKey="name" stroke="var(--aboard-soft)" tick={{ fontSize: 12 }} />
          <YAxis allowDecimals={false} stroke="var(--aboard-soft)" tick={{ fontSize: 12 }} width={40} />
          <Tooltip
            contentStyle={{ background: "var(--aboard-sheet)", border: "1px solid var(--aboard-hair)" }}
          />
          <Legend itemSorter={null} formatter={inInk} />
          <Bar dataKey="Sent" fill="var(--aboard-staff)" isAnimationActive={false} />
          <Bar dataKey="Accepted" fill="var(--aboard-good)" isAnimationActive={false} />
          <Bar dataKey="Declined" fill="var(--aboard-client)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}

function ByKind({ view }: { view: Figures }) {
  const bars = view.groups
    .filter((group) => group.by === "kind")
    .map(({ name, figures }) => ({
      name,
      Accepted: figures.accepted,
      Declined: figures.declined,
      Open: figures.sent - figures.accepted - figures.declined,
    }));
  return (
    <div
      className="chart"
      role="img"
      aria-label={bars
        .map((bar) => `${bar.name}: ${bar.Accepted} accepted, ${bar.Declined} declined`)
        .join("; ")}
    >
      <ResponsiveContainer>
        <BarChart data={bars} layout="vertical">
          <CartesianGrid stroke="var(--aboard-hair)" horizontal={false} />
          <XAxis type="number" allowDecimals={false} stroke="var(--aboard-soft)" tick={{ fontSize: 12 }} />
          <YAxis
            type="category"
            dataKey="name"
            stroke="var(--aboard-soft)"
            tick={{ fontSize: 13 }}
            width={64}
          />
          <Tooltip
            contentStyle={{ background: "var(--aboard-sheet)", border: "1px solid var(--aboard-hair)" }}
          />
          <Legend itemSorter={null} formatter={inInk} />
          <Bar dataKey="Accepted" stackId="all" fill="var(--aboard-good)" isAnimationActive={false} />
          <Bar dataKey="Declined" stackId="all" fill="var(--aboard-client)" isAnimationActive={false} />
          <Bar dataKey="Open" stackId="all" fill="var(--aboard-hair)" isAnimationActive={false} />
        </BarChart>
      </ResponsiveContainer>
    </div>
  );
}

function Groups({ view }: { view: Figures }) {
  const rows = [{ by: "all", name: "", figures: view.total }, ...view.groups];
  return (
    <Table verticalSpacing={6}>
      <Table.Thead>
        <Table.Tr>
          <Table.Th>By</Table.Th>
          <Table.Th>Name</Table.Th>
          <Table.Th ta="right">Sent</Table.Th>
          <Table.Th ta="right">Accepted</Table.Th>
          <Table.Th ta="right">Declined</Table.Th>
          <Table.Th ta="right">Answered</Table.Th>
          <Table.Th ta="right">Median time to answer</Table.Th>
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {rows.map(({ by, name, figures }) => (
          <Table.Tr key={by + name}>
            <Table.Td>{by}</Table.Td>
            <Table.Td>{name}</Table.Td>
            <Table.Td ta="right">{numberText(figures.sent)}</Table.Td>
            <Table.Td ta="right">{numberText(figures.accepted)}</Table.Td>
            <Table.Td ta="right">{numberText(figures.declined)}</Table.Td>
            <Table.Td ta="right">{shareText(figures.answerRate)}</Table.Td>
            <Table.Td ta="right">{hoursText(figures.medianHours)}</Table.Td>
          </Table.Tr>
        ))}
      </Table.Tbody>
    </Table>
  );
}
