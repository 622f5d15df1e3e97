import fc from 'fast-check';
import { intake, text } from 'jestril';
import { linearPattern } from 'jestril/linear';
import { removeMarkup } from 'jestril/markup';
import { judgeValue, messagesOf, rulesOf, told } from '../support/judging.ts';

describe('linearPattern', () => {
  const field = (expression: RegExp) => text('F', linearPattern(expression, 'so'));
  test.each([
    [/^(a+)+$/, 'aaa', 'aab'],
    [/^\S+@\S+\.\S+$/, 'a@b.c', 'a@b'],
    [/\d+x/, 'a12x', '12'],
    [/^k$/i, 'K', 'x'],
    [/^\u0041\p{L}$/u, 'Aé', 'A1'],
    [/^a.b$/s, 'a\nb', 'ab'],
  ])('%s', (expression, holds, fails) => {
    expect(rulesOf(judgeValue(field(expression), holds))).toEqual([]);
    expect(messagesOf(judgeValue(field(expression), fails))).toEqual(['F must be so.']);
  });

  test('takes linear time where backtracking takes for ever', () => {
    expect(rulesOf(judgeValue(field(/^(a+)+$/), `${'a'.repeat(100_000)}!`))).toEqual(['pattern']);
  });

  test('stands twice on one field', () => {
    const twice = text('F', linearPattern(/a/, 'with an a'), linearPattern(/b/, 'with a b'));
    expect(messagesOf(judgeValue(twice, 'c'))).toEqual(['F must be with an a.', 'F must be with a b.']);
  });

  test('refuses what it does not know', () => {
    expect(() => linearPattern(/^(?=a)a/, 'so')).toThrow('the linear-time engine does not know this expression');
    expect(() => linearPattern(/a/g, 'so')).toThrow('the flag g is not known.');
    expect(() => linearPattern(/a/, '')).toThrow('needs a description in words');
  });
});

describe('removeMarkup', () => {
  const clean = (raw: string) => told(judgeValue(text('F', removeMarkup()).orAbsent(), raw));
  test.each([
    ['<b>bold</b> and <i class="x">more</i>', 'bold and more'],
    ['a < b & c > d', 'a < b & c > d'],
    ['<script>alert(1)</script>x<style>y</style>', 'x'],
    ['<<b>script>alert(1)<</b>/script>', ''],
    ['&lt;b&gt; &amp; é', '&lt;b&gt; &amp; é'],
    ['x<!-- c -->y<br/>z', 'xyz'],
    ['<img src=x onerror=alert(1)', ''],
    ['5 <6', '5 <6'],
  ])('%s', (raw, expected) => {
    expect(clean(raw)).toEqual({ value: expected });
  });

  test('cleaning twice changes nothing', () => {
    const part = fc.constantFrom('<', '>', 'b', '/', '!', '--', '<b>', '</b>', 'script', '<script>', '&lt;', ' ', '"', '=', 'x');
    fc.assert(
      fc.property(fc.array(part, { maxLength: 30 }), (parts) => {
        const form = intake('f', { a: text('A', removeMarkup()).orAbsent() });
        const once = form.judgeLocally({ a: parts.join('') });
        const value = once.outcome === 'accepted' ? once.value.a : undefined;
        expect(form.judgeLocally({ a: value })).toMatchObject({ value: { a: value } });
      }),
    );
  });

  test('hostile nesting takes no more than a few passes', () => {
    expect(clean(`${'<'.repeat(50_000)}${'b>'.repeat(50_000)}`)).toHaveProperty('value');
  });
});
