/** A module worker, or any server of the Fetch standard, with one handler of `jestril/fetch` for each path. */
export const worker = (handlers: { readonly [path: string]: (request: Request) => Promise<Response> }) => ({
  async fetch(request: Request): Promise<Response> {
    const handler = handlers[new URL(request.url).pathname];
    return handler ? handler(request) : new Response(null, { status: 404 });
  },
});
