import { Skeleton, Table, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { LevelWord } from "../Access/LevelWord";
import { api, take } from "../api";
import { Page } from "../ui/Page";
import { Refusal } from "../ui/Refusal";
import { useWorkspace } from "../Workspaces/useWorkspace";

/** What a person would see. Nothing can be done from here, and that somebody looked is in the record. */
export function SeeAsPage() {
  const { workspace, view } = useWorkspace();
  const { id } = useParams({ from: "/w/$workspace/people/$id/see-as" });
  const seen = useQuery({
    queryKey: [workspace, "person", id, "see-as"],
    queryFn: () =>
      take(
        api.POST("/api/v1/workspaces/{workspace}/people/{person}/see-as", {
          params: { path: { workspace, person: id } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const found = seen.data;
  return (
    <Page title={found ? `As ${found.person.name} sees it` : "As they see it"}>
      <p className="soft">
        For looking only; it is written into the record that you looked.{" "}
        <Link to="/w/$workspace/people/$id" params={{ workspace, id }}>
          Back to their page
        </Link>
      </p>
      <Refusal of={seen.error} />
      {seen.isPending && <Skeleton height={200} />}
      {found && (
        <section className="sheet seen-as" aria-label={`What ${found.person.name} sees`}>
          <Title order={2} size="h4">
            {view?.name}
          </Title>
          {found.allowed ? (
            <>
              <p>{found.sentences.join(" ")}</p>
              <p>
                Pages that open to them: <strong>{found.pages.join(", ")}</strong>
              </p>
              <Table verticalSpacing={6}>
                <Table.Tbody>
                  {found.areas.map((place) => (
                    <Table.Tr key={place.area + place.place + place.isResource}>
                      <Table.Td style={{ paddingLeft: place.isResource ? 32 : undefined }}>
                        {place.isResource ? place.place : <strong>{place.place}</strong>}
                      </Table.Td>
                      <Table.Td>
                        <LevelWord level={place.level} />
                      </Table.Td>
                    </Table.Tr>
                  ))}
                </Table.Tbody>
              </Table>
            </>
          ) : (
            <p>{found.why}</p>
          )}
        </section>
      )}
    </Page>
  );
}
