import { Table, Text } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { LevelWord } from "../Access/LevelWord";
import type { Difference as Change } from "../api";

const shown = 12;

/** What an edit changes, for whom; said before it is made, and again after. */
export function Difference({ of, workspace }: { of: Change; workspace: string }) {
  if (of.total === 0) return <Text className="soft">Nothing changes today in what anybody may do.</Text>;
  const rest = of.total - Math.min(shown, of.changes.length);
  return (
    <div className="table-holder">
      <Text fw={650}>{[said(of.gaining, "gain"), said(of.losing, "lose")].filter(Boolean).join(", ")}</Text>
      <Table verticalSpacing={4}>
        <Table.Tbody>
          {of.changes.slice(0, shown).map((change) => (
            <Table.Tr key={`${change.personId}${change.place}`}>
              <Table.Td>
                <Link to="/w/$workspace/people/$id" params={{ workspace, id: change.personId }}>
                  {change.person}
                </Link>
              </Table.Td>
              <Table.Td>{change.place ?? "duties"}</Table.Td>
              <Table.Td>
                {change.place ? <LevelWord level={change.before} /> : change.before}{" "}
                <span role="img" aria-label="becomes">
                  →
                </span>{" "}
                {change.place ? <LevelWord level={change.after} /> : change.after}
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {rest > 0 && <Text className="soft">and {rest} more changes</Text>}
    </div>
  );
}

function said(people: number, verb: string) {
  if (people === 0) return "";
  return people === 1 ? `1 person ${verb}s something` : `${people} people ${verb} something`;
}
