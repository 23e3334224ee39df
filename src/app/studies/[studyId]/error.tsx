"use client";

import { ViewStopped, type StoppedProps } from "@/components/ViewStopped";

export default function ViewErrorPage(props: StoppedProps) {
  return <ViewStopped {...props} as="section" className="view-heading" />;
}
