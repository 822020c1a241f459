export function fillFrom(address: string, file: string): Promise<void>;
