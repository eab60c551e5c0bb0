const steps = ["none", "view", "contribute", "edit", "manage"];

/** A level as a word and a ladder of four rungs, so that columns of levels can be read at a glance. */
export function LevelWord({ level }: { level: string }) {
  const height = steps.indexOf(level);
  return (
    <span className="level-word">
      <svg width="18" height="12" viewBox="0 0 18 12" aria-hidden="true">
        {[1, 2, 3, 4].map((rung) => (
          <rect
            key={rung}
            x={(rung - 1) * 4.6}
            y={12 - rung * 3}
            width="3.6"
            height={rung * 3}
            fill={rung <= height ? "var(--aboard-accent)" : "var(--aboard-hair)"}
          />
        ))}
      </svg>
      {level}
    </span>
  );
}
