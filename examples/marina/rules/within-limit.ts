import Big from 'big.js';
import { choice, exact, rule, whole } from 'jestril';
import { tariffs } from '../collections.ts';
import { totalOf } from '../total.ts';

/** At the price of the day an order stays within its limit. */
export const withinLimit = rule(
  'marina/within-limit',
  { plug: choice, amount: whole, limit: exact },
  {
    looksUp: { tariff: tariffs.one({ plug: 'plug' }, ['price']) },
    holds: ({ amount, limit }, { tariff }) => new Big(totalOf({ price: tariff.price, amount })).lte(limit),
    message: {
      en: '{amount_value, number} kWh at {tariff_price} each cost more than {limit_value}.',
      de: '{amount_value, number} kWh zu je {tariff_price} kosten mehr als {limit_value}.',
    },
    blames: ['amount', 'limit'],
    samples: {
      holds: [{ plug: '16A', amount: 10, limit: '4.20', tariff: { price: '0.42' } }],
      fails: [{ plug: '16A', amount: 10, limit: '4.19', tariff: { price: '0.42' } }],
    },
  },
);
