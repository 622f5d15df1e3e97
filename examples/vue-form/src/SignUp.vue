<!-- The sign-up of the marina in Vue: templates draw, the intake judges. -->
<script setup lang="ts">
import { ownerSignUp } from '@pellwick/marina';
import { useIntake } from 'jestril/vue';
import { ref } from 'vue';
import FormField from './FormField.vue';

const done = ref('');
const email = ref('');
const { form, bind } = useIntake(ownerSignUp, {
  judgeAt: 'sign-up/check',
  send: (data, signal) => fetch('sign-up', { method: 'POST', body: data, headers: { accept: 'application/json' }, signal }),
  async onAnswer(response) {
    if (response.ok) done.value = `Welcome, ${(await response.json()).name}.`;
  },
});
</script>

<template>
  <h1 v-if="done">{{ done }}</h1>
  <form v-else :ref="bind" method="post">
    <h1>Open an account</h1>
    <section :id="form.summaryId" tabindex="-1" :hidden="form.summary.length === 0 && !form.trouble" aria-label="To mend">
      <p v-if="form.trouble" role="alert">{{ form.trouble }}</p>
      <ul>
        <li v-for="{ key, text, href, move } in form.summary" :key="key">
          <a :href="href" @click.prevent="move">{{ text }}</a>
        </li>
      </ul>
    </section>
    <FormField :form="form" name="name" label="Name" />
    <!-- Bound to a value of the component, which keeps it in small letters. -->
    <FormField :form="form" name="contact.email" label="E-mail" :model-value="email" @update:model-value="email = ($event ?? '').toLowerCase()" />
    <FormField :form="form" name="contact.phone" label="Phone" />
    <FormField :form="form" name="born" label="Born" />
    <FormField :form="form" name="passphrase" label="Passphrase" autocomplete="new-password" />
    <FormField :form="form" name="passphraseAgain" label="Passphrase again" autocomplete="new-password" />
    <p>
      <input type="checkbox" v-bind="form.field('terms').control" />
      <label :for="form.field('terms').id">I accept the terms of the marina</label>
    </p>
    <p v-for="{ id, text, severity } in form.field('terms').messages" :id="id" :key="id" :class="severity">{{ text }}</p>
    <button :disabled="form.isPending">Open the account</button>
  </form>
</template>
