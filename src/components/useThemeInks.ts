"use client";

import { useEffect, useState } from "react";

/** The inks of the theme that is shown, for what is drawn by hand. */
export function useThemeInks() {
  const [inks, setInks] = useState({
    reference: "#2b4a9b",
    referenceTint: "#dce4f6",
    version: "#b4491b",
    versionTint: "#f6ddd0",
    soft: "#5d6470",
    ink: "#1d2227",
    line: "#dfd9cc",
  });
  useEffect(() => {
    const read = () => {
      const style = getComputedStyle(document.documentElement);
      const ink = (name: string) => style.getPropertyValue(name).trim();
      setInks({
        reference: ink("--reference"),
        referenceTint: ink("--reference-tint"),
        version: ink("--version"),
        versionTint: ink("--version-tint"),
        soft: ink("--soft"),
        ink: ink("--ink"),
        line: ink("--line"),
      });
    };
    read();
    window.addEventListener("themechange", read);
    return () => window.removeEventListener("themechange", read);
  }, []);
  return inks;
}
