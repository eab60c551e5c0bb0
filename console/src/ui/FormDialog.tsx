import { Button, Group, Modal, Stack } from "@mantine/core";
import { type UseFormReturnType, useForm } from "@mantine/form";
import { useDebouncedValue } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { type Difference as Change, type Problem, Refused } from "../api";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { Difference } from "./Difference";
import { Refusal } from "./Refusal";

export type Form<T> = UseFormReturnType<T>;

/** What a dry run said of the values as they are; the last answer while the next one is awaited. */
export type Plan<T> = { data: T | undefined; fault: Refused | undefined };

type Planned = { difference?: Change | null };

/** A form in a dialog: filled in, shown what it comes to, saved, told; what is wrong with one field is said beside it. */
export function FormDialog<TForm extends object, TDone, TPlan extends object = Planned>(props: {
  title: string;
  /** What the button says. */
  word: string | ((values: TForm, plan: Plan<TPlan>) => string);
  isAlarming?: boolean | ((values: TForm) => boolean);
  size?: string;
  initial: TForm;
  children?: (form: Form<TForm>, plan: Plan<TPlan>) => ReactNode;
  save: (values: TForm, plan: Plan<TPlan>) => Promise<TDone>;
  /** What is said once it is saved; nothing where the page says it. */
  said?: string;
  /** What saving would come to, where that is to be seen first; undefined as long as not enough is known, or nothing changes. */
  plan?: (values: TForm) => (() => Promise<TPlan>) | undefined;
  /** What the plan hangs on beside the form. */
  about?: unknown;
  /** Whether it can be saved; for a step only what was planned can. */
  isReady?: (values: TForm, plan: Plan<TPlan>) => boolean;
  isStep?: boolean;
  /** Whether what the plan was refused for has its answer in the form: then it is not said as well. */
  isAnswered?: (plan: Plan<TPlan>) => boolean;
  /** What was not done of what was asked: it is shown, and the dialog stays. */
  left?: (done: TDone) => Problem[];
  /** Beside saving: another way out, such as removing. */
  beside?: ReactNode | ((form: Form<TForm>, plan: Plan<TPlan>) => ReactNode);
  onClose: () => void;
  onDone?: (done: TDone) => void;
}) {
  const { workspace } = useWorkspace();
  const queries = useQueryClient();
  const form = useForm<TForm>({ initialValues: props.initial });
  const [settled] = useDebouncedValue(form.values, 200);
  const call = props.plan?.(settled);
  const planned = useQuery({
    queryKey: [workspace, "plan", props.title, props.about, settled],
    queryFn: async () => (call ? await call() : null),
    enabled: call !== undefined,
    retry: false,
    staleTime: 0,
    gcTime: 0,
    placeholderData: (before) => before,
  });
  const isCurrent = settled === form.values && !planned.isPlaceholderData;
  const plan: Plan<TPlan> = {
    data: (call && planned.data) || undefined,
    fault: call && planned.error instanceof Refused ? planned.error : undefined,
  };
  const save = useMutation({
    mutationFn: (values: TForm) => props.save(values, plan),
    onSuccess: async (done) => {
      await queries.invalidateQueries({ queryKey: [workspace] });
      if (props.left?.(done).length) return;
      if (props.said) notifications.show({ message: props.said });
      props.onClose();
      props.onDone?.(done);
    },
    onError: (fault) => {
      const field = fault instanceof Refused ? fault.problem.field : null;
      if (field && field in form.values) form.setFieldError(field, fault.message);
    },
  });
  const left = save.data ? (props.left?.(save.data) ?? []) : [];
  const isReady =
    left.length === 0 &&
    (props.isReady?.(form.values, plan) ?? (!props.isStep || plan.data !== undefined)) &&
    (!props.isStep || isCurrent);
  const isAlarming =
    typeof props.isAlarming === "function" ? props.isAlarming(form.values) : props.isAlarming;
  const difference = (plan.data as Planned | undefined)?.difference;
  return (
    <Modal
      opened
      onClose={props.onClose}
      size={props.size ?? "lg"}
      title={<strong>{props.title}</strong>}
      closeButtonProps={{ "aria-label": "Close" }}
    >
      <form onSubmit={form.onSubmit((values) => save.mutate(values))}>
        <Stack>
          {props.children?.(form, plan)}
          {difference && <Difference of={difference} workspace={workspace} />}
          {left.map((one) => (
            <Refusal key={one.title} of={new Refused(one)} />
          ))}
          <Refusal
            of={save.error ?? (props.isAnswered?.(plan) ? null : planned.error)}
            isForetold={!save.error}
          />
          <Group justify="space-between">
            {(typeof props.beside === "function" ? props.beside(form, plan) : props.beside) || <span />}
            <Group>
              {props.isStep && (
                <Button variant="default" onClick={props.onClose}>
                  {left.length > 0 ? "Leave it" : "Keep as it is"}
                </Button>
              )}
              <Button
                type="submit"
                color={isAlarming ? "alarm" : undefined}
                disabled={!isReady}
                loading={save.isPending}
              >
                {typeof props.word === "string" ? props.word : props.word(form.values, plan)}
              </Button>
            </Group>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
