"use client";

import { PageTitle } from "@/components/PageTitle";
import { ViewStopped, type StoppedProps } from "@/components/ViewStopped";

export default function ErrorPage(props: StoppedProps) {
  return (
    <>
      <PageTitle />
      <ViewStopped {...props} as="main" className="home" />
    </>
  );
}
