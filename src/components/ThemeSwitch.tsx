"use client";

/** Changes between the paper and the dark theme; the choice is remembered. */
export function ThemeSwitch() {
  const change = () => {
    const root = document.documentElement;
    const next = root.dataset.bsTheme === "dark" ? "light" : "dark";
    root.dataset.bsTheme = next;
    localStorage.setItem("theme", next);
    window.dispatchEvent(new Event("themechange"));
  };
  return (
    <button
      type="button"
      className="pill round"
      title="Paper or dark theme"
      aria-label="Paper or dark theme"
      onClick={change}
    >
      ◐
    </button>
  );
}
