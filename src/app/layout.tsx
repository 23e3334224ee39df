import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "@fontsource-variable/atkinson-hyperlegible-next";
import "./styles.scss";
import { Notices } from "@/components/Notices";

export const metadata: Metadata = {
  description: "Study a reference track by rebuilding it.",
  // In the page itself: a file would be fetched again each time the page is read anew.
  icons: {
    icon: "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 16 16'%3E%3Cpath d='M1 8h14' stroke='%235d6470'/%3E%3Cpath d='M4 8V3m4 5V1m4 7V4' stroke='%232b4a9b' stroke-width='2'/%3E%3Cpath d='M4 8v5m4-5v6m4-6v3' stroke='%23b4491b' stroke-width='2'/%3E%3C/svg%3E",
  },
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
