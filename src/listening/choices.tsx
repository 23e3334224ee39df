import type { ReactNode } from "react";
import { Dropdown } from "react-bootstrap";

/** A value with its label, pressed as one. */
export function Labelled({
  label,
  pressed,
  disabled,
  className = "",
  onPress,
  children,
}: {
  label: string;
  pressed?: boolean;
  disabled: boolean;
  className?: string;
  onPress(): void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className={`plain-button labelled ${className}`}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={onPress}
    >
      <span className="label">{label}</span> <span className="value">{children}</span>
    </button>
  );
}

/** A value with its label that opens what it can be changed to. */
export function Choice({
  label,
  value,
  disabled,
  children,
}: {
  label: string;
  value: string;
  disabled: boolean;
  children: ReactNode;
}) {
  return (
    <Dropdown drop="up" align="end" autoClose="outside">
      <Dropdown.Toggle
        as="button"
        bsPrefix="plain-button labelled"
        disabled={disabled}
        aria-label={`${label}: ${value}`}
      >
        <span className="label">{label}</span>
        <span className="value">{value}</span>
      </Dropdown.Toggle>
      <Dropdown.Menu className="choice-menu">{children}</Dropdown.Menu>
    </Dropdown>
  );
}

export function ChoiceGroup({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="choice-group" role="group" aria-label={title}>
      <div className="small-text soft">{title}</div>
      {children}
    </div>
  );
}

export function OneOf({
  chosen,
  onChoose,
  children,
}: {
  chosen: boolean;
  onChoose(): void;
  children: ReactNode;
}) {
  return (
    <button type="button" className="plain-button one-of" aria-pressed={chosen} onClick={onChoose}>
      {children}
    </button>
  );
}
