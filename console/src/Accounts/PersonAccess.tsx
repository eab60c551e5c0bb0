import { Button, Group, Skeleton, Stack, Title } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { GiveDialog } from "../Access/GiveDialog";
import { GrantList } from "../Access/GrantList";
import { LevelWord } from "../Access/LevelWord";
import { Paths } from "../Access/Paths";
import { SwitchOffDialog } from "../Access/SwitchOffDialog";
import type { Person } from "../api";
import { accessOf } from "../queries";
import { Refusal } from "../ui/Refusal";
import { SimpleTable } from "../ui/SimpleTable";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { HandOverDialog } from "./HandOverDialog";

/** What somebody may do, place by place, each explained by the grants that produce it. */
export function PersonAccess({ person }: { person: Person }) {
  const { workspace, may } = useWorkspace();
  const [isGiving, setGiving] = useState(false);
  const [isHanding, setHanding] = useState(false);
  const [isSwitching, setSwitching] = useState(false);
  const found = useQuery(accessOf(workspace, person.id));
  const access = found.data;
  return (
    <section className="sheet table-holder" aria-labelledby="access">
      <Stack>
        <Group justify="space-between">
          <Title order={2} size="h4" id="access">
            What they may do, and why
          </Title>
          {person.state !== "ended" && may("access") && (
            <Group gap="xs">
              <Button size="xs" variant="default" onClick={() => setSwitching(true)}>
                Switch off for …
              </Button>
              <Button size="xs" onClick={() => setGiving(true)}>
                Give a role
              </Button>
            </Group>
          )}
        </Group>
        <Refusal of={found.error} />
        {found.isPending && <Skeleton height={120} />}
        {access && (
          <>
            {access.cut && <strong>Today nothing of this counts: {access.cut}.</strong>}
            <GrantList grants={access.grants} nothing="Nothing is given to them directly." />
            {access.groups.length > 0 && <p>In the groups: {access.groups.join(", ")}</p>}
            {access.seats.length > 0 && <p>Holds a seat of: {access.seats.join(", ")}</p>}
            {access.owns.length > 0 && (
              <Group>
                <span>Owns: {access.owns.join(", ")}</span>
                {may("access") && (
                  <Button size="compact-sm" variant="default" onClick={() => setHanding(true)}>
                    Hand over …
                  </Button>
                )}
              </Group>
            )}
            {access.places.length > 0 && (
              <SimpleTable
                isBare
                rows={access.places}
                keyOf={(place) => place.area + place.place + place.isResource}
                columns={[
                  {
                    head: "Where",
                    cell: (place) =>
                      place.isResource ? (
                        <>
                          {place.place} <span className="soft">in {place.area}</span>
                        </>
                      ) : (
                        <strong>{place.place}</strong>
                      ),
                  },
                  {
                    head: "Level",
                    cell: (place) => (
                      <>
                        <LevelWord level={place.level} />
                        <div className="soft">{place.cut}</div>
                      </>
                    ),
                  },
                  {
                    head: "Because of",
                    cell: (place) => <Paths paths={place.paths} isCut={place.cut !== ""} />,
                  },
                ]}
              />
            )}
            {access.duties.length > 0 && (
              <p>
                Duties: <strong>{access.duties.map((duty) => duty.duty).join(", ")}</strong>, from{" "}
                {[...new Set(access.duties.flatMap((duty) => duty.paths.map((path) => path.role)))].join(
                  ", ",
                )}
              </p>
            )}
          </>
        )}
      </Stack>
      {access && isHanding && (
        <HandOverDialog person={person} owns={access.owns} onClose={() => setHanding(false)} />
      )}
      {isSwitching && (
        <SwitchOffDialog
          name={person.name}
          holder={{ person: person.id, organisation: null }}
          offAt={[]}
          onClose={() => setSwitching(false)}
        />
      )}
      {isGiving && (
        <GiveDialog
          title={`Give ${person.name} a role`}
          holder={{ person: person.id }}
          onClose={() => setGiving(false)}
        />
      )}
    </section>
  );
}
