import { Button, Group } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, inWorkspace, type Pool, take } from "../api";
import { Allowed } from "../ui/Allowed";
import { CsvLink } from "../ui/CsvLink";
import { FormDialog } from "../ui/FormDialog";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { instantText, numberText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { AccessNav } from "./AccessNav";
import { PersonField } from "./PersonField";
import { PoolDialog } from "./PoolDialog";

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
          <Allowed duty="seats">
            <Button onClick={() => setEdited("new")}>Add a seat pool</Button>
          </Allowed>
        </>
      }
    >
      <AccessNav />
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
        <PoolDialog of={edited === "new" ? undefined : edited} onClose={() => setEdited(undefined)} />
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
      take(api.GET(`${path}/{name}/holders`, { params: { path: { workspace, name: pool.id } } })),
  });
  return (
    <section className="sheet table-holder" aria-label={pool.name}>
      <Group justify="space-between">
        <h2 className="section-title">{pool.name}</h2>
        <Group gap="xs">
          <Allowed duty="seats">
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
          </Allowed>
        </Group>
      </Group>
      <p className="soft">{pool.about}</p>
      <SeatBar pool={pool} />
      <SimpleTable
        isBare
        isHeadless
        rows={holders.data?.items}
        keyOf={(seat) => seat.id}
        columns={[
          {
            head: "Whose",
            cell: (seat) => (
              <>
                {seat.name || seat.address}
                <div className="soft">{seat.address}</div>
              </>
            ),
          },
          {
            head: "Since",
            cell: (seat) => (
              <span className="soft">
                {seat.isReservation ? "reserved by an invitation" : `since ${instantText(seat.since ?? "")}`}
              </span>
            ),
          },
          {
            head: "Steps",
            isNumber: true,
            cell: (seat) =>
              !seat.isReservation && (
                <Group gap="xs" justify="end" wrap="nowrap">
                  <Allowed duty="seats">
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
                  </Allowed>
                </Group>
              ),
          },
        ]}
      />
      {step && <SeatDialog pool={pool} step={step} onClose={() => setStep(undefined)} />}
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
  const many = numberText;
  const seats = `${many(pool.held)} held, ${many(pool.reserved)} reserved, ${many(pool.free)} free of ${many(pool.total)}`;
  return pool.changesLeft === null
    ? seats
    : `${seats}; ${many(pool.changesLeft)} changes left in ${pool.year} (${many(pool.changesUsed)} used)`;
}

function SeatDialog(props: {
  pool: Pool;
  step: { verb: "give" | "take" | "pass"; from?: string; name?: string };
  onClose: () => void;
}) {
  const { pool, step } = props;
  const { workspace } = useWorkspace();
  const place = { workspace, name: pool.id };
  const call = (dryRun: boolean, person: string) => {
    const query = { dryRun };
    if (step.verb === "give")
      return take(
        api.POST(`${path}/{name}/holders`, { params: { path: place, query }, body: { people: [person] } }),
      );
    return step.verb === "take"
      ? take(
          api.DELETE(`${path}/{name}/holders/{person}`, {
            params: { path: { ...place, person: step.from ?? "" }, query },
          }),
        )
      : take(
          api.POST(`${path}/{name}/pass`, {
            params: { path: place, query },
            body: { from: step.from ?? "", to: person },
          }),
        );
  };
  const [title, word] = {
    give: [`Give a seat of ${pool.name}`, "Give the seat"],
    take: [`Take the seat of ${step.name}`, "Take the seat"],
    pass: [`Pass the seat of ${step.name} on`, "Pass it on"],
  }[step.verb] as [string, string];
  return (
    <FormDialog
      isStep
      title={title}
      word={word}
      initial={{ person: "" }}
      plan={({ person }) =>
        step.verb === "take" || person.includes("@") ? () => call(true, person) : undefined
      }
      about={[pool.version, step]}
      save={({ person }) => call(false, person)}
      onClose={props.onClose}
    >
      {(form, plan) => (
        <>
          {step.verb !== "take" && <PersonField label="To whom" {...form.getInputProps("person")} />}
          {plan.data && (
            <dl className="facts">
              <dt>Now</dt>
              <dd>{accountText(plan.data.before)}</dd>
              <dt>Then</dt>
              <dd>{accountText(plan.data.after)}</dd>
            </dl>
          )}
        </>
      )}
    </FormDialog>
  );
}
