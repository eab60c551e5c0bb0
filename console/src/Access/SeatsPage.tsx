import { Button, Group, Modal, NumberInput, Stack, Table, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Pool, take } from "../api";
import { CsvLink } from "../ui/CsvLink";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { PersonField } from "./PersonField";

const path = "/api/v1/workspaces/{workspace}/seats";

/** The seat pools: held, reserved, free, and the changes left this year; each opened to see its holders. */
export function SeatsPage() {
  const { workspace } = useWorkspace();
  const [edited, setEdited] = useState<Pool | "new">();
  const pools = useQuery({
    queryKey: [workspace, "seats"],
    queryFn: () => take(api.GET(path, inWorkspace(workspace))),
  });
  return (
    <Page
      title="Seats"
      actions={
        <>
          <CsvLink workspace={workspace} list="seats?format=csv" />
          <Button onClick={() => setEdited("new")}>Add a seat pool</Button>
        </>
      }
    >
      <AccessNav workspace={workspace} />
      <Refusal of={pools.error} />
      {pools.data?.items.length === 0 && (
        <p className="sheet">
          There is no seat pool. Use one for what there is only so much of: licences, desks, berths.
        </p>
      )}
      {pools.data?.items.map((pool) => (
        <PoolSheet key={pool.id} pool={pool} onChange={() => setEdited(pool)} />
      ))}
      {edited && (
        <PoolDialog pool={edited === "new" ? undefined : edited} onClose={() => setEdited(undefined)} />
      )}
    </Page>
  );
}

function PoolSheet({ pool, onChange }: { pool: Pool; onChange: () => void }) {
  const { workspace } = useWorkspace();
  const [step, setStep] = useState<{ verb: "give" | "take" | "pass"; from?: string; name?: string }>();
  const holders = useQuery({
    queryKey: [workspace, "seats", pool.id, "holders"],
    queryFn: () =>
      take(api.GET(`${path}/{pool}/holders`, { params: { path: { workspace, pool: pool.id } } })),
  });
  return (
    <section className="sheet table-holder" aria-label={pool.name}>
      <Group justify="space-between">
        <h2 className="section-title">{pool.name}</h2>
        <Group gap="xs">
          <Button size="xs" variant="default" onClick={onChange}>
            Change …
          </Button>
          <Button
            size="xs"
            disabled={pool.free === 0}
            title={pool.free === 0 ? "No seat is free: take or pass on one that is held." : undefined}
            onClick={() => setStep({ verb: "give" })}
          >
            Give a seat
          </Button>
        </Group>
      </Group>
      <p className="soft">{pool.about}</p>
      <SeatBar pool={pool} />
      <Table verticalSpacing={6}>
        <Table.Tbody>
          {holders.data?.items.map((seat) => (
            <Table.Tr key={seat.id}>
              <Table.Td>
                {seat.name || seat.address}
                <div className="soft">{seat.address}</div>
              </Table.Td>
              <Table.Td className="soft">
                {seat.isReservation ? "reserved by an invitation" : `since ${instantText(seat.since ?? "")}`}
              </Table.Td>
              <Table.Td className="number">
                {!seat.isReservation && (
                  <Group gap="xs" justify="end" wrap="nowrap">
                    <Button
                      size="xs"
                      variant="default"
                      aria-label={`Pass the seat of ${seat.name} on`}
                      onClick={() => setStep({ verb: "pass", from: seat.address, name: seat.name })}
                    >
                      Pass on …
                    </Button>
                    <Button
                      size="xs"
                      variant="default"
                      aria-label={`Take the seat of ${seat.name}`}
                      onClick={() => setStep({ verb: "take", from: seat.address, name: seat.name })}
                    >
                      Take …
                    </Button>
                  </Group>
                )}
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {step && <StepDialog pool={pool} step={step} onClose={() => setStep(undefined)} />}
    </section>
  );
}

/** Held, reserved and free seats as stretches of one bar, with the numbers beside it. */
function SeatBar({ pool }: { pool: Pool }) {
  const width = (seats: number) => `${pool.total ? (seats / pool.total) * 100 : 0}%`;
  return (
    <div>
      <svg className="seat-bar" width="100%" height="12" aria-hidden="true">
        <rect width="100%" height="12" fill="var(--aboard-hair)" />
        <rect width={width(pool.held + pool.reserved)} height="12" fill="var(--aboard-brass)" />
        <rect width={width(pool.held)} height="12" fill="var(--aboard-accent)" />
      </svg>
      <p>{accountText(pool)}</p>
    </div>
  );
}

function accountText(pool: Pool) {
  const seats = `${pool.held} held, ${pool.reserved} reserved, ${pool.free} free of ${pool.total}`;
  return pool.changesLeft === null
    ? seats
    : `${seats}; ${pool.changesLeft} changes left in ${pool.year} (${pool.changesUsed} used)`;
}

function StepDialog(props: {
  pool: Pool;
  step: { verb: "give" | "take" | "pass"; from?: string; name?: string };
  onClose: () => void;
}) {
  const { pool, step } = props;
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [person, setPerson] = useState("");
  const place = { workspace, pool: pool.id };
  const call = (dryRun: boolean) => {
    const query = { dryRun };
    if (step.verb === "give")
      return take(
        api.POST(`${path}/{pool}/holders`, { params: { path: place, query }, body: { people: [person] } }),
      );
    return step.verb === "take"
      ? take(
          api.DELETE(`${path}/{pool}/holders/{person}`, {
            params: { path: { ...place, person: step.from ?? "" }, query },
          }),
        )
      : take(
          api.POST(`${path}/{pool}/pass`, {
            params: { path: place, query },
            body: { from: step.from ?? "", to: person },
          }),
        );
  };
  const plan = useQuery({
    queryKey: [workspace, "seat plan", pool.id, pool.version, step, person],
    queryFn: () => call(true),
    enabled: step.verb === "take" || person.includes("@"),
    retry: false,
  });
  const run = useMutation({
    mutationFn: () => call(false),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      props.onClose();
    },
  });
  const title =
    step.verb === "give"
      ? `Give a seat of ${pool.name}`
      : step.verb === "take"
        ? `Take the seat of ${step.name}`
        : `Pass the seat of ${step.name} on`;
  return (
    <Modal opened onClose={props.onClose} title={<strong>{title}</strong>} size="lg">
      <Stack>
        {step.verb !== "take" && <PersonField label="To whom" value={person} onChange={setPerson} />}
        {plan.data && (
          <dl className="facts">
            <dt>Now</dt>
            <dd>{accountText(plan.data.before)}</dd>
            <dt>Then</dt>
            <dd>{accountText(plan.data.after)}</dd>
          </dl>
        )}
        <Refusal of={run.error ?? plan.error} />
        <Group justify="end">
          <Button variant="default" onClick={props.onClose}>
            Keep as it is
          </Button>
          <Button disabled={!plan.data} loading={run.isPending} onClick={() => run.mutate()}>
            {step.verb === "give" ? "Give the seat" : step.verb === "take" ? "Take the seat" : "Pass it on"}
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}

function PoolDialog({ pool, onClose }: { pool?: Pool; onClose: () => void }) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const [form, setForm] = useState({
    name: pool?.name ?? "",
    about: pool?.about ?? "",
    total: pool?.total ?? 1,
    changesPerSeat: (pool?.changesPerSeat ?? "") as number | "",
  });
  const set = (part: Partial<typeof form>) => setForm((before) => ({ ...before, ...part }));
  const save = useMutation({
    mutationFn: () => {
      const body = { ...form, changesPerSeat: form.changesPerSeat === "" ? null : form.changesPerSeat };
      return take(
        pool
          ? api.PUT(`${path}/{pool}`, {
              params: { path: { workspace, pool: pool.id } },
              body,
              headers: { "If-Match": `"${pool.version}"` },
            })
          : api.POST(path, { ...inWorkspace(workspace), body }),
      );
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={onClose}
      title={<strong>{pool ? `Change ${pool.name}` : "Add a seat pool"}</strong>}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <Stack>
          <TextInput
            label="Name"
            required
            data-autofocus
            value={form.name}
            onChange={(event) => set({ name: event.currentTarget.value })}
          />
          <TextInput
            label="About it"
            value={form.about}
            onChange={(event) => set({ about: event.currentTarget.value })}
          />
          <NumberInput
            label="Seats"
            min={0}
            value={form.total}
            onChange={(total) => set({ total: Number(total) })}
          />
          <NumberInput
            label="Changes a year for each seat"
            description="Pooled over all seats, begun anew each calendar year. Empty means any number."
            min={0}
            value={form.changesPerSeat}
            onChange={(changes) => set({ changesPerSeat: changes === "" ? "" : Number(changes) })}
          />
          <Refusal of={save.error} />
          <Button type="submit" loading={save.isPending}>
            Save
          </Button>
        </Stack>
      </form>
    </Modal>
  );
}
