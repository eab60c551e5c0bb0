/** Chooses a row, or all. The browser's own box: a list draws dozens at once, on slow machines too. */
export function Tick(props: {
  label: string;
  checked: boolean;
  /** Whether it stands for several of which only some are chosen. */
  isPartly?: boolean;
  disabled?: boolean;
  onChange: () => void;
}) {
  const { label, isPartly, ...rest } = props;
  return (
    <input
      type="checkbox"
      className="tick"
      aria-label={label}
      ref={(box) => {
        if (box) box.indeterminate = isPartly ?? false;
      }}
      {...rest}
    />
  );
}
