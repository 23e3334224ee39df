import type { ReactNode } from "react";

export interface Choice<T extends string> {
  value: T;
  title: ReactNode;
  disabled?: boolean;
}

/** One of a few, as words in a line. */
export function Choices<T extends string>({
  label,
  choices,
  chosen,
  onChoose,
  className = "",
  children,
}: {
  label: string;
  choices: readonly Choice<T>[];
  /** Null where none is. */
  chosen: T | null;
  onChoose(value: T): void;
  className?: string;
  /** What stands before them. */
  children?: ReactNode;
}) {
  return (
    <span className={`choices ${className}`} role="group" aria-label={label}>
      {children}
      {choices.map(({ value, title, disabled }) => (
        <button
          key={value}
          type="button"
          className="plain-button"
          aria-pressed={value === chosen}
          disabled={disabled}
          onClick={() => onChoose(value)}
        >
          {title}
        </button>
      ))}
    </span>
  );
}
