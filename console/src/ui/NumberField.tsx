import { NumberInput, type NumberInputProps } from "@mantine/core";
import { type FocusEvent, useState } from "react";

type Props = Omit<NumberInputProps, "value" | "onChange" | "required" | "withAsterisk"> & {
  value?: number | string;
} & (
    | {
        /** It may be left empty, which has a meaning of its own. */ isOptional: true;
        onChange?: (value: number | "") => void;
      }
    | { isOptional?: false; onChange?: (value: number) => void }
  );

/**
 * A whole number, at least nought. Where there has to be one, the form is not sent while it is empty, and whoever leaves it so sees
 * the number again that counts.
 */
export function NumberField({
  value,
  onChange,
  onBlur,
  isOptional,
  min = 0,
  max = 1_000_000,
  ...rest
}: Props) {
  const [isEmptied, setIsEmptied] = useState(false);
  return (
    <NumberInput
      {...rest}
      min={min}
      max={max}
      allowDecimal={false}
      allowNegative={false}
      clampBehavior="strict"
      required={!isOptional}
      withAsterisk={false}
      value={isEmptied ? "" : value}
      onChange={(number) => {
        setIsEmptied(number === "" && !isOptional);
        if (number !== "") onChange?.(Number(number));
        else if (isOptional) (onChange as ((value: "") => void) | undefined)?.("");
      }}
      onBlur={(event: FocusEvent<HTMLInputElement>) => {
        setIsEmptied(false);
        onBlur?.(event);
      }}
    />
  );
}
