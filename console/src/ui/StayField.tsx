import { Button, Group } from "@mantine/core";
import { useWorkspace } from "../Workspaces/useWorkspace";
import { DayField } from "./DayField";
import { dayAfter, dayText } from "./words";

/**
 * The last day of a stay, with the usual lengths beside it. Left empty it is as long as is usual for the kind; no end is
 * a choice of its own.
 */
export function StayField(props: {
  kind: string;
  from: string;
  until: string;
  noEnd: boolean;
  onChange: (stay: { until: string; noEnd: boolean }) => void;
  error?: string;
}) {
  const { view, today } = useWorkspace();
  const first = props.from || today;
  const usual = view?.usualStayDays?.[props.kind];
  const lengths = [7, 28, ...(usual && ![7, 28].includes(usual) ? [usual] : [])];
  const last = (days: number) => dayAfter(first, days - 1);
  return (
    <div>
      <DayField
        label="Last day"
        description={
          props.noEnd
            ? "Their access has no end."
            : usual
              ? `Their access ends after it. Empty means as usual: ${usual} days, until ${dayText(last(usual))}.`
              : "Their access ends after it. Empty means no end, as is usual for this kind."
        }
        placeholder={props.noEnd ? "no end" : usual ? dayText(last(usual)) : "no end"}
        min={first}
        value={props.until}
        onChange={(until) => props.onChange({ until, noEnd: false })}
        error={props.error}
      />
      <Group gap="xs" mt={6}>
        {lengths.map((days) => (
          <Button
            key={days}
            size="compact-xs"
            variant={props.until === last(days) ? "light" : "default"}
            aria-pressed={props.until === last(days)}
            onClick={() => props.onChange({ until: last(days), noEnd: false })}
          >
            {days % 7 === 0 && days < 60 ? `${days / 7} week${days === 7 ? "" : "s"}` : `${days} days`}
          </Button>
        ))}
        <Button
          size="compact-xs"
          variant={props.noEnd ? "light" : "default"}
          aria-pressed={props.noEnd}
          onClick={() => props.onChange({ until: "", noEnd: true })}
        >
          No end
        </Button>
      </Group>
    </div>
  );
}
