import { Fragment, type ReactNode, useDeferredValue } from "react";

// Below the heading and what narrows a list there is room for rows of one or two lines.
const inSight = () => Math.max(8, Math.ceil((window.innerHeight - 300) / 52));

/** The rows of a list: first those that are seen without scrolling, so that they are there at once, and right after them the rest. */
export function InSightFirst<T extends { id: string }>(props: {
  rows: T[];
  children: (row: T) => ReactNode;
}) {
  const shown = useDeferredValue(props.rows, props.rows.slice(0, inSight()));
  return shown.map((row) => <Fragment key={row.id}>{props.children(row)}</Fragment>);
}
