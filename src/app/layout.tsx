import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "@fontsource-variable/atkinson-hyperlegible-next";
import "./styles.scss";
import { Notices } from "@/components/Notices";

export const metadata: Metadata = {
  title: { default: "Plain Mirror", template: "%s · Plain Mirror" },
  description: "Study a reference track by rebuilding it.",
};

// Runs before the first paint, so that the dark theme does not flash white.
const applyTheme = `try{document.documentElement.dataset.bsTheme=localStorage.getItem("theme")||"light"}catch{}`;

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get("x-nonce") ?? undefined;
  return (
    <html lang="en" data-bs-theme="light" suppressHydrationWarning>
      <head>
        <script nonce={nonce} suppressHydrationWarning dangerouslySetInnerHTML={{ __html: applyTheme }} />
      </head>
      <body>
        <Notices>{children}</Notices>
      </body>
    </html>
  );
}
