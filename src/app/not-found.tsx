import Link from "next/link";
import { PageTitle } from "@/components/PageTitle";

export default function NotFound() {
  return (
    <main className="home">
      <PageTitle of="Nothing is here" />
      <h1>Nothing is here</h1>
      <p className="soft">The study may have been deleted, or the address has a slip in it.</p>
      <Link href="/" className="plain-button underlined">
        Go to the list of studies
      </Link>
    </main>
  );
}
