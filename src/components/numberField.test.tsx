import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { NumberField } from "./NumberField";

afterEach(cleanup);

describe("a number field", () => {
  const open = () => {
    const saved: number[] = [];
    render(
      <NumberField value={1} label="Weight" min={0} max={10} step={0.5} onSave={(n) => saved.push(n)} />,
    );
    const field = screen.getByLabelText<HTMLInputElement>("Weight");
    return { saved, field, type: (value: string) => fireEvent.change(field, { target: { value } }) };
  };

  it("saves while it is typed in, and keeps what is typed", () => {
    const { saved, field, type } = open();
    type("2.50");
    expect(saved).toEqual([2.5]);
    expect(field.value).toBe("2.50");
  });

  it.each(["11", "-1", ""])("saves nothing of “%s”, says the range, and goes back when left", (text) => {
    const { saved, field, type } = open();
    type(text);
    expect(saved).toEqual([]);
    expect(screen.getByRole("alert").textContent).toBe("0 to 10");
    fireEvent.blur(field);
    expect(field.value).toBe("1");
    expect(screen.queryByRole("alert")).toBeNull();
  });
});
