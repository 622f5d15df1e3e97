<!-- A box with its label, and what is to be mended. -->
<script setup lang="ts">
import type { IntakeForm } from 'jestril/vue';
import { computed } from 'vue';

defineOptions({ inheritAttrs: false });
const props = defineProps<{ form: IntakeForm; name: string; label: string }>();
const typed = defineModel<string>();
const field = computed(() => props.form.field(props.name));
</script>

<template>
  <div>
    <label :for="field.id">{{ label }}</label>
    <input v-model="typed" v-bind="{ ...field.control, ...$attrs }" />
    <p v-for="{ id, text, severity } in field.messages" :id="id" :key="id" :class="severity">{{ text }}</p>
  </div>
</template>
