import { Versions } from "@/views/versions/Versions";

export default function VersionsPage() {
  return <Versions />;
}
