export const chromiumPackage: string;
export const chromiumPath: () => string | null;
