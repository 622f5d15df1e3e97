import type { IncomingHttpHeaders, IncomingMessage } from 'node:http';
import busboy from 'busboy';
import { filesTooLarge, formPart, type Read, tooLarge } from './body.ts';
import type { Limits } from './json.ts';
import { Unreadable } from './problem.ts';

/** Reads a multipart body (RFC 7578) as it comes, within limits. Files are kept in memory. */
export function readMultipart(request: IncomingMessage, headers: IncomingHttpHeaders, limits: Required<Limits>): Promise<Read> {
  return new Promise((resolve, reject) => {
    const pairs: [string, unknown][] = [];
    let bytes = 0;
    let fileBytes = 0;
    const parser = openParser(headers, limits, reject);
    if (!parser) return;
    const stop = (error: Unreadable) => {
      request.unpipe(parser);
      parser.removeAllListeners();
      // What still comes is let go, so that the answer can be sent.
      parser.on('error', () => undefined);
      request.resume();
      reject(error);
    };
    parser.on('field', (name, value, info) => {
      bytes += Buffer.byteLength(value);
      if (info.valueTruncated || info.nameTruncated || bytes > limits.bytes) return stop(tooLarge(limits.bytes));
      if (value.includes('\uFFFD')) return stop(new Unreadable(400, 'The form is not UTF-8.'));
      pairs.push([name, value]);
    });
    parser.on('file', (name, stream, { filename, mimeType }) => {
      const chunks: Buffer[] = [];
      let size = 0;
      stream.on('data', (chunk: Buffer) => {
        size += chunk.length;
        fileBytes += chunk.length;
        if (fileBytes > limits.fileBytes) stop(filesTooLarge(limits.fileBytes));
        else chunks.push(chunk);
      });
      stream.on('limit', () => stop(filesTooLarge(limits.fileBytes)));
      stream.on('close', () => {
        pairs.push([name, { name: filename ?? '', mediaType: mimeType, size, content: Buffer.concat(chunks) }]);
      });
    });
    for (const limit of ['partsLimit', 'filesLimit', 'fieldsLimit'] as const)
      parser.on(limit, () => stop(new Unreadable(413, `The body has more than ${limits.parts} parts.`)));
    parser.on('error', () => stop(new Unreadable(400, 'The body is not multipart/form-data as its content type says.')));
    request.on('error', () => stop(new Unreadable(400, 'The body broke off.')));
    parser.on('close', () => {
      try {
        resolve(formPart(pairs, limits));
      } catch (error) {
        reject(error as Error);
      }
    });
    request.pipe(parser);
  });
}

function openParser(
  headers: IncomingHttpHeaders,
  limits: Required<Limits>,
  reject: (error: Unreadable) => void,
): busboy.Busboy | undefined {
  try {
    return busboy({
      headers,
      defParamCharset: 'utf8',
      limits: { parts: limits.parts + 1, fieldSize: limits.bytes, fieldNameSize: 200, fileSize: limits.fileBytes, headerPairs: 50 },
    });
  } catch {
    reject(new Unreadable(400, 'The content type of the multipart body names no boundary.'));
    return undefined;
  }
}
