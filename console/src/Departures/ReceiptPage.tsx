import { Anchor, Button, Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { dayText, instantText } from "../ui/words";
import { useWorkspace } from "../Workspaces/useWorkspace";

type Says = {
  issuer: string;
  workspace: string;
  departure: string;
  person: { name: string; address: string };
  kind: string;
  decidedBy: string;
  decidedAt: string;
  lastDay?: string | null;
  endedAt: string;
  signedAt: string;
  steps: {
    number: number;
    sentence: string;
    state: string;
    at: string;
    answer: string;
    by: string;
    file?: { name: string; sha256: string } | null;
  }[];
  record: { sequence: number; hash: string };
};

/** What was signed, as it was signed: the middle part of the compact form (RFC 7515). */
function read(receipt: string): Says {
  const middle = (receipt.split(".")[1] ?? "").replaceAll("-", "+").replaceAll("_", "/");
  const bytes = Uint8Array.from(atob(middle), (one) => one.charCodeAt(0));
  return JSON.parse(new TextDecoder().decode(bytes)) as Says;
}

/** A receipt in words, for paper: it says what the signed file says, and how that is verified. */
export function ReceiptPage() {
  const { workspace } = useWorkspace();
  const { id = "" } = useParams({ strict: false });
  const found = useQuery({
    queryKey: [workspace, "departures", id],
    queryFn: () =>
      take(
        api.GET("/api/v1/workspaces/{workspace}/departures/{departure}", {
          params: { path: { workspace, departure: id } },
        }),
      ),
  });
  const receipt = found.data?.receipt;
  const says = receipt ? read(receipt) : undefined;
  return (
    <Page
      title={says ? `Receipt: ${says.person.name} has left ${says.workspace}` : "Receipt"}
      actions={receipt && <Button onClick={() => window.print()}>Print</Button>}
    >
      <Refusal of={found.error} />
      {found.data && !receipt && (
        <p className="sheet">There is no receipt: something is still to be confirmed, or it was erased.</p>
      )}
      {says && receipt && (
        <>
          <section className="sheet" aria-label="What it says">
            <dl className="facts">
              <dt>Who left</dt>
              <dd>
                {says.person.name}, {says.person.address}, {says.kind}
              </dd>
              <dt>Decided by</dt>
              <dd>
                {says.decidedBy === "the service" ? "the agreed end date" : says.decidedBy},{" "}
                {instantText(says.decidedAt)}
              </dd>
              <dt>Last day</dt>
              <dd>{says.lastDay ? dayText(says.lastDay) : "at once"}</dd>
              <dt>Access ended</dt>
              <dd>{instantText(says.endedAt)}</dd>
              <dt>Signed</dt>
              <dd>
                {instantText(says.signedAt)}, by {says.workspace} at {says.issuer}
              </dd>
            </dl>
          </section>
          <SimpleTable
            rows={says.steps}
            keyOf={(step) => step.number}
            label="Steps"
            columns={[
              { head: "No", cell: (step) => step.number, isNumber: true },
              { head: "What was done", cell: (step) => step.sentence },
              { head: "State", cell: (step) => step.state, isOneLine: true },
              { head: "When", cell: (step) => instantText(step.at), isOneLine: true },
              {
                head: "What was found",
                cell: (step) => (
                  <>
                    {step.by ? `${step.by}: ${step.answer}` : step.answer || "–"}
                    {step.file && (
                      <div className="soft digest">
                        {step.file.name}, SHA-256 {step.file.sha256}
                      </div>
                    )}
                  </>
                ),
              },
            ]}
          />
          <section className="sheet" aria-label="How it is verified">
            <Text size="sm">
              Times are of {Intl.DateTimeFormat().resolvedOptions().timeZone}. The record of the workspace had{" "}
              {says.record.sequence.toLocaleString("en")} entries then; the last has the digest{" "}
              <span className="digest">{says.record.hash}</span>.
            </Text>
            <Text size="sm" mt="xs">
              What counts is the signed file, of departure <span className="digest">{says.departure}</span>:{" "}
              <Anchor
                size="sm"
                underline="always"
                href={`data:application/jose,${encodeURIComponent(receipt)}`}
                download={`receipt-${says.person.address}.jws`}
              >
                the receipt
              </Anchor>
              , verified without this service by <code>aboard departures verify FILE --keys KEYS.json</code>,
              or by any program that reads JWS (RFC 7515) and these keys:{" "}
              <span className="digest">
                {new URL(`/w/${workspace}/receipt-keys.json`, location.href).href}
              </span>
            </Text>
          </section>
        </>
      )}
    </Page>
  );
}
