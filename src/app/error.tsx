"use client";

import { ViewStopped, type StoppedProps } from "@/components/ViewStopped";

export default function ErrorPage(props: StoppedProps) {
  return <ViewStopped {...props} as="main" className="home" />;
}
