import type { Answer, SentRequest } from 'jestril/request';

/** An event of AWS Lambda: of a REST API or a load balancer (1.0), of an HTTP API or a function's own address (2.0). */
export interface LambdaEvent {
  readonly version?: string;
  readonly httpMethod?: string;
  readonly path?: string;
  readonly multiValueQueryStringParameters?: { readonly [name: string]: readonly string[] | undefined } | null;
  readonly queryStringParameters?: { readonly [name: string]: string | undefined } | null;
  readonly multiValueHeaders?: { readonly [name: string]: readonly string[] | undefined } | null;
  readonly headers?: { readonly [name: string]: string | undefined } | null;
  readonly rawPath?: string;
  readonly rawQueryString?: string;
  readonly cookies?: readonly string[];
  readonly requestContext?: { readonly http?: { readonly method: string } };
  readonly routeKey?: string;
  readonly resource?: string;
  readonly pathParameters?: { readonly [name: string]: string | undefined } | null;
  readonly body?: string | null;
  readonly isBase64Encoded?: boolean;
}

/** A handler of `jestril/request` for the events of AWS Lambda. */
export const onLambda = (answers: (request: SentRequest) => Promise<Answer>) => async (event: LambdaEvent) => {
  const { body, pathParameters, routeKey, resource } = event;
  const cookie = event.cookies && { cookie: event.cookies.join('; ') };
  const {
    status,
    headers,
    body: text,
  } = await answers({
    method: event.requestContext?.http?.method ?? event.httpMethod ?? '',
    url: `${event.rawPath ?? event.path ?? '/'}?${event.rawQueryString ?? queryOf(event)}`,
    headers: { ...(event.multiValueHeaders ?? event.headers), ...cookie },
    params: Object.fromEntries(Object.entries(pathParameters ?? {}).map(([name, value]) => [name, value ?? ''])),
    body: event.isBase64Encoded ? Buffer.from(body ?? '', 'base64') : (body ?? null),
    route: resource ?? routeKey ?? event.path ?? event.rawPath ?? '/',
    source: event,
  });
  const pairs = Object.entries(headers).filter(([name]) => name !== 'set-cookie');
  const cookies = [headers['set-cookie'] ?? []].flat();
  const isNew = event.version === '2.0';
  return {
    statusCode: status,
    headers: Object.fromEntries(pairs.map(([name, value]) => [name, [value].flat().join(', ')])),
    ...(cookies.length > 0 && (isNew ? { cookies } : { multiValueHeaders: { 'set-cookie': cookies } })),
    body: text,
  };
};

/** Decoded by the platform, and put together again. */
function queryOf({ multiValueQueryStringParameters: all, queryStringParameters: last }: LambdaEvent): string {
  const pairs = Object.entries(all ?? last ?? {}).flatMap(([name, value]) => [value ?? []].flat().map((each) => [name, each]));
  return new URLSearchParams(pairs).toString();
}
