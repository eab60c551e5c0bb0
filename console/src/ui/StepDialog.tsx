import type { ReactNode } from "react";
import type { Difference } from "../api";
import { type Form, FormDialog } from "./FormDialog";

/** A step whose difference is shown before it is made: planned as soon as enough is chosen, made by the button. */
export function StepDialog<TForm extends object = object>(props: {
  title: string;
  /** What the button says. */
  word: string;
  isAlarming?: boolean;
  initial?: TForm;
  /** Whether what is chosen is enough to plan. */
  isChosen?: (values: TForm) => boolean;
  call: (dryRun: boolean, values: TForm) => Promise<{ difference: Difference }>;
  onClose: () => void;
  onDone?: () => void;
  children?: ReactNode | ((form: Form<TForm>) => ReactNode);
}) {
  const { children } = props;
  return (
    <FormDialog
      isStep
      title={props.title}
      word={props.word}
      isAlarming={props.isAlarming}
      initial={props.initial ?? ({} as TForm)}
      plan={(values) => (props.isChosen?.(values) === false ? undefined : () => props.call(true, values))}
      save={(values) => props.call(false, values)}
      onClose={props.onClose}
      onDone={props.onDone}
    >
      {(form) => (typeof children === "function" ? children(form) : children)}
    </FormDialog>
  );
}
