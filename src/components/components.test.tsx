import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { EditableText } from "./EditableText";
import { HistoryLine } from "./HistoryLine";

afterEach(cleanup);

describe("editable text", () => {
  const open = (props: Partial<Parameters<typeof EditableText>[0]> = {}) => {
    const saved: string[] = [];
    render(
      <EditableText
        value="old"
        label="note"
        empty="Add a note"
        onSave={(next) => saved.push(next)}
        {...props}
      />,
    );
    fireEvent.click(screen.getByRole("button"));
    return { field: screen.getByLabelText("note"), saved };
  };

  it("saves what was typed, without blanks at its ends", () => {
    const { field, saved } = open();
    fireEvent.change(field, { target: { value: "  new  " } });
    fireEvent.keyDown(field, { key: "Enter" });
    expect(saved).toEqual(["new"]);
  });

  it("keeps the old text on Escape, and where nothing changed", () => {
    const { field, saved } = open();
    fireEvent.change(field, { target: { value: "new" } });
    fireEvent.keyDown(field, { key: "Escape" });
    expect(screen.getByRole("button").textContent).toBe("old");
    expect(saved).toEqual([]);
  });

  it("does not lose a name that must be there", () => {
    const { field, saved } = open({ required: true });
    fireEvent.change(field, { target: { value: "   " } });
    fireEvent.blur(field);
    expect(saved).toEqual([]);
    expect(screen.getByRole("button").textContent).toBe("old");
  });
});

describe("history line", () => {
  it("says its scores, leaving out versions without one", () => {
    render(<HistoryLine scores={[40.4, null, 81]} label="Match" />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Match: 40, 81");
  });

  it("is not drawn without scores", () => {
    const { container } = render(<HistoryLine scores={[null]} label="Match" />);
    expect(container.firstChild).toBeNull();
  });
});
