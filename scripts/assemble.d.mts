export function assembled(): Promise<string>;
