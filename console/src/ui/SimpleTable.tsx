import { Skeleton, Table } from "@mantine/core";
import type { ReactNode } from "react";

export type Column<T> = {
  /** What stands above it; for a reader of screens alone when hidden. */
  head: string;
  isHeadHidden?: boolean;
  cell: (row: T) => ReactNode;
  isNumber?: boolean;
  isOneLine?: boolean;
};

/** A table of few rows, all of them drawn; says what would fill it when it is empty. */
export function SimpleTable<T>(props: {
  rows: readonly T[] | undefined;
  keyOf: (row: T) => string | number;
  columns: Column<T>[];
  /** What is said when there are none. */
  nothing?: ReactNode;
  /** Whether it stands on a sheet already. */
  isBare?: boolean;
  /** For rows that speak for themselves. */
  isHeadless?: boolean;
  label?: string;
}) {
  const { rows, columns } = props;
  if (!rows) return <Skeleton height={160} />;
  if (rows.length === 0)
    return props.nothing ? <p className={props.isBare ? "soft" : "sheet"}>{props.nothing}</p> : null;
  const classOf = (column: Column<T>) =>
    column.isNumber ? "number" : column.isOneLine ? "one-line" : undefined;
  const table = (
    <Table verticalSpacing={8} aria-label={props.label}>
      {!props.isHeadless && (
        <Table.Thead>
          <Table.Tr>
            {columns.map((column) => (
              <Table.Th key={column.head} className={classOf(column)}>
                {column.isHeadHidden ? <span className="visually-hidden">{column.head}</span> : column.head}
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
      )}
      <Table.Tbody className="rows">
        {rows.map((row) => (
          <tr key={props.keyOf(row)}>
            {columns.map((column) => (
              <td key={column.head} className={classOf(column)}>
                {column.cell(row)}
              </td>
            ))}
          </tr>
        ))}
      </Table.Tbody>
    </Table>
  );
  return props.isBare ? table : <div className="sheet table-holder">{table}</div>;
}
