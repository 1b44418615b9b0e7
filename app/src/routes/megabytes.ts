export const megabytes = (bytes: number) =>
  bytes < 2 ** 30 ? `${(bytes / 2 ** 20).toFixed(bytes < 2 ** 20 * 10 ? 1 : 0)} MB` : `${(bytes / 2 ** 30).toFixed(1)} GB`;
