import { intake, text } from 'jestril';
import { useIntake as useInReact } from 'jestril/react';
import { useIntake as useInVue } from 'jestril/vue';
import { createElement } from 'react';
import { renderToString } from 'react-dom/server';
import { createSSRApp, h } from 'vue';
import { renderToString as renderVue } from 'vue/server-renderer';

// Where there is no page, forms are drawn as they begin, with ids that the page will have too.

const stay = intake('stay', { phrase: text('Phrase').secret() });

test('React and Vue draw a form on a server', async () => {
  const drawn = await Promise.all([
    renderToString(
      createElement(() => {
        const { form, bind } = useInReact(stay);
        return createElement('form', { ref: bind }, createElement('input', form.field('phrase').control), form.summary.length);
      }),
    ),
    renderVue(
      createSSRApp({
        setup() {
          const { form, bind } = useInVue(stay);
          return () => h('form', { ref: bind }, [h('input', form.value.field('phrase').control), form.value.summary.length]);
        },
      }),
    ),
  ]);
  for (const html of drawn) {
    expect(html).toMatch(/^<form><input [^>]*>0<\/form>$/);
    for (const told of [/ id="[^"]+\/phrase"/, / name="phrase"/, / type="password"/]) expect(html).toMatch(told);
  }
});
