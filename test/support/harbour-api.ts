/** The description of a service that nobody has built, with what such descriptions use. */
export const harbourApi = {
  openapi: '3.1.0',
  info: { title: 'Harbour', version: '2' },
  paths: {
    '/berths/{code}': {
      parameters: [{ $ref: '#/components/parameters/Code' }],
      get: {
        operationId: 'readBerth',
        parameters: [
          { name: 'fields', in: 'query', schema: { type: 'array', items: { enum: ['length', 'price'] } }, style: 'form', explode: false },
          { name: 'X-Trace', in: 'header', required: true, schema: { type: 'string', format: 'uuid' } },
          { name: 'session', in: 'cookie', required: true, schema: { type: 'string', minLength: 4 } },
        ],
        responses: {
          200: { content: { 'application/json': { schema: { $ref: '#/components/schemas/Berth' } } } },
          '4XX': { $ref: '#/components/responses/Problem' },
          default: { $ref: '#/components/responses/Problem' },
        },
      },
    },
    '/berths/free': {
      get: {
        operationId: 'freeBerths',
        parameters: [
          { name: 'pier', in: 'query', schema: { type: 'array', items: { type: 'string' }, maxItems: 2 } },
          { name: 'size', in: 'query', style: 'deepObject', explode: true, schema: { $ref: '#/components/schemas/Size' } },
          { name: 'near', in: 'query', style: 'pipeDelimited', explode: false, schema: { type: 'array', items: { type: 'number' } } },
          { name: 'tags', in: 'query', style: 'spaceDelimited', explode: false, schema: { type: 'array', items: { type: 'string' } } },
          { name: 'box', in: 'query', schema: { type: 'object', properties: { north: { type: 'number' }, south: { type: 'number' } } } },
        ],
        responses: {
          200: { content: { 'application/json': { schema: { type: 'array', items: { $ref: '#/components/schemas/Berth' } } } } },
        },
      },
    },
    '/tides/{at}{range}': {
      get: {
        parameters: [
          { name: 'at', in: 'path', required: true, style: 'label', schema: { type: 'array', items: { type: 'integer' } } },
          {
            name: 'range',
            in: 'path',
            required: true,
            style: 'matrix',
            explode: true,
            schema: { type: 'array', items: { type: 'string' } },
          },
        ],
        responses: { 204: { description: 'Nothing.' } },
      },
    },
    '/bookings': {
      post: {
        operationId: 'book',
        requestBody: {
          required: true,
          content: {
            'application/json': { schema: { $ref: '#/components/schemas/Booking' } },
            'application/x-www-form-urlencoded': { schema: { $ref: '#/components/schemas/Guest' } },
            'text/csv': { schema: { type: 'string' } },
          },
        },
        responses: { 201: { content: { 'application/json': { schema: { $ref: '#/components/schemas/Booking' } } } } },
      },
    },
    '/certificates': {
      post: {
        operationId: 'sendCertificate',
        requestBody: {
          content: {
            'multipart/form-data': {
              schema: {
                type: 'object',
                required: ['certificate', 'mark'],
                properties: { certificate: { type: 'string', format: 'binary' }, mark: { type: 'string', pattern: '^PW-\\d{4}$' } },
              },
            },
          },
        },
        responses: { 204: { description: 'Kept.' } },
      },
    },
    '/odd': {
      get: {
        operationId: 'odd',
        parameters: [{ name: 'filter', in: 'query', content: { 'application/json': { schema: { type: 'object' } } } }],
        responses: {
          200: { content: { 'application/json': { schema: { type: 'object', patternProperties: { '^x': { type: 'string' } } } } } },
        },
      },
    },
  },
  components: {
    parameters: { Code: { name: 'code', in: 'path', required: true, schema: { type: 'string', pattern: '^[A-F][0-9]{1,2}$' } } },
    responses: {
      Problem: { description: 'A problem.', content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } } },
    },
    schemas: {
      Problem: {
        type: 'object',
        required: ['type', 'title'],
        properties: { type: { type: 'string' }, title: { type: 'string' }, status: { type: 'integer' } },
      },
      Size: {
        type: 'object',
        additionalProperties: false,
        properties: { length: { type: 'number', minimum: 1 }, beam: { type: 'number' } },
        dependentRequired: { beam: ['length'] },
      },
      Berth: {
        allOf: [
          { $ref: '#/components/schemas/Place' },
          {
            type: 'object',
            required: ['price'],
            properties: {
              price: { type: 'number', exclusiveMinimum: 0 },
              beside: { type: 'array', items: { $ref: '#/components/schemas/Berth' } },
            },
          },
        ],
      },
      Place: {
        type: 'object',
        required: ['code'],
        properties: { code: { type: 'string' }, id: { type: 'integer', format: 'int64', readOnly: true } },
      },
      Guest: {
        type: 'object',
        required: ['name'],
        properties: { name: { type: 'string', minLength: 1 }, nights: { type: 'integer', maximum: 28 } },
        additionalProperties: false,
      },
      Booking: {
        type: 'object',
        required: ['berth', 'payment', 'arrives'],
        properties: {
          id: { type: 'string', format: 'uuid', readOnly: true },
          berth: { type: 'string', title: 'The berth' },
          arrives: { type: 'string', format: 'date' },
          gateCode: { type: 'string', format: 'password', writeOnly: true },
          electric: { type: 'boolean' },
          plug: { enum: ['16A', '32A'] },
          payment: { $ref: '#/components/schemas/Payment' },
        },
        if: { properties: { electric: { const: true } }, required: ['electric'] },
        // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
        then: { required: ['plug'] },
        else: { properties: { plug: false } },
      },
      Payment: {
        oneOf: [{ $ref: '#/components/schemas/Card' }, { $ref: '#/components/schemas/Invoice' }],
        discriminator: { propertyName: 'method', mapping: { card: '#/components/schemas/Card', bill: '#/components/schemas/Invoice' } },
      },
      Card: {
        type: 'object',
        required: ['method', 'number'],
        properties: { method: { type: 'string' }, number: { type: 'string', minLength: 8 } },
      },
      Invoice: {
        type: 'object',
        required: ['method', 'to'],
        properties: { method: { type: 'string' }, to: { type: 'string', format: 'email' } },
      },
    },
  },
} as const;
