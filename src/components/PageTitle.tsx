/**
 * The title of a page. It belongs to what is shown and stays as long as that does: left to the framework
 * it was gone for a moment at each change of view.
 */
export const PageTitle = ({ of }: { of?: string }) => (
  <title>{of === undefined ? "Plain Mirror" : `${of} · Plain Mirror`}</title>
);
