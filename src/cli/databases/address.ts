/** An address as it may be shown. */
export function withoutPassword(url: string): string {
  return url.replace(/^([a-z]+:\/\/[^:@/]*):[^@]*@/, '$1@');
}
