import { Misuse } from '../../basics/misuse.ts';
import { NO_REQUEST } from './curl.ts';
import type { SeenRequest } from './request.ts';

/** What is read of an entry of an HTTP archive (HAR 1.2). */
interface HarRequest {
  readonly method?: unknown;
  readonly url?: unknown;
  readonly postData?: {
    readonly mimeType?: unknown;
    readonly text?: unknown;
    readonly params?: readonly { readonly name?: unknown; readonly value?: unknown; readonly fileName?: unknown }[];
  };
}

/**
 * Reads an entry of an HTTP archive, its request alone, or a whole archive, of which the last request with a body counts.
 *
 * @throws Misuse for any other JSON
 */
export function harRequest(value: unknown): SeenRequest {
  const { log, request } = (value ?? {}) as { readonly log?: { readonly entries?: unknown }; readonly request?: HarRequest };
  const entries = Array.isArray(log?.entries) ? (log.entries as readonly ({ readonly request?: HarRequest } | null)[]) : [];
  const sent = entries.map((entry) => entry?.request).filter((each) => typeof each?.url === 'string');
  const { method, url, postData } = sent.findLast((each) => each?.postData) ?? sent.at(-1) ?? request ?? (value as HarRequest | null) ?? {};
  if (typeof url !== 'string' || typeof method !== 'string') throw new Misuse(NO_REQUEST);
  const { mimeType, text, params } = postData ?? {};
  const listed = Array.isArray(params) ? (params as NonNullable<NonNullable<HarRequest['postData']>['params']>) : [];
  const isText = typeof text === 'string' && text !== '';
  return {
    method,
    url,
    type: typeof mimeType === 'string' ? mimeType : undefined,
    body: isText ? text : undefined,
    ...(!isText &&
      listed.length > 0 && {
        parts: listed
          .filter(({ fileName }) => !fileName)
          .map(({ name, value: typed }) => [String(name ?? ''), String(typed ?? '')] as const),
        files: listed.filter(({ fileName }) => fileName).map(({ name }) => String(name ?? '')),
      }),
  };
}
