import Link from "next/link";
import type { Refusal } from "@/core/outcome";

/** A page that cannot be shown: why, and what to do. */
export function Problem({
  refusal: { code, sentence, remedy },
}: {
  refusal: Pick<Refusal, "code" | "sentence" | "remedy">;
}) {
  return (
    <main className="home">
      <h1>{code === "not-found" ? "Nothing is here" : "This can't be shown"}</h1>
      <p role="alert">
        {sentence} {remedy}
      </p>
      <Link href="/" className="plain-button underlined" prefetch={false}>
        Go to the list of studies
      </Link>
    </main>
  );
}
