import { DateInput, type DateInputProps } from "@mantine/dates";
import dayjs from "dayjs";
import customParseFormat from "dayjs/plugin/customParseFormat";

dayjs.extend(customParseFormat);
const written = ["YYYY-MM-DD", "D MMM YYYY", "D MMMM YYYY", "D.M.YYYY", "D/M/YYYY"];

/** A day, chosen or typed; empty for none. Days are as the interface has them: 2027-01-31. */
export function DayField({
  value,
  onChange,
  min,
  max,
  ...rest
}: Omit<DateInputProps, "value" | "onChange" | "minDate" | "maxDate"> & {
  value?: string;
  onChange: (day: string) => void;
  min?: string;
  max?: string;
}) {
  return (
    <DateInput
      clearable
      highlightToday
      weekendDays={[]}
      valueFormat="D MMM YYYY"
      dateParser={(text) => {
        const day = dayjs(text.trim(), written, true);
        return day.isValid() ? day.format("YYYY-MM-DD") : null;
      }}
      clearButtonProps={{ "aria-label": "No day" }}
      {...rest}
      minDate={min}
      maxDate={max}
      value={value || null}
      onChange={(day) => onChange(day ?? "")}
    />
  );
}
