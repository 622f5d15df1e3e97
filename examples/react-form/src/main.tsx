import { ownerSignUp } from '@pellwick/marina';
import { StrictMode, useState } from 'react';
import { createRoot } from 'react-dom/client';
import { useBoundForm } from './use-bound-form.ts';

// The sign-up of the marina in React: the components draw, the intake judges.

const FIELDS = [
  ['name', 'Name', 'text'],
  ['contact.email', 'E-mail', 'email'],
  ['contact.phone', 'Phone', 'tel'],
  ['born', 'Born', 'date'],
  ['passphrase', 'Passphrase', 'password'],
  ['passphraseAgain', 'Passphrase again', 'password'],
] as const;

function Field({ name, label, type }: { readonly name: string; readonly label: string; readonly type: string }) {
  // Findings are put into an element that React leaves alone.
  return (
    <div>
      <label htmlFor={name}>{label}</label>
      <br />
      <input id={name} name={name} type={type} />
      <div data-field={`/${name.replaceAll('.', '/')}`} />
    </div>
  );
}

function SignUp() {
  const [done, setDone] = useState('');
  const { form, summary } = useBoundForm(ownerSignUp, {
    send: (data, signal) => fetch('sign-up', { method: 'POST', body: data, headers: { accept: 'application/json' }, signal }),
    onAnswer: async (response) => {
      if (response.ok) setDone(`Welcome, ${(await response.json()).name}.`);
    },
  });
  if (done !== '') return <h1>{done}</h1>;
  return (
    <form ref={form}>
      <h1>Open an account</h1>
      <section ref={summary} tabIndex={-1} hidden aria-label="To mend" />
      {FIELDS.map(([name, label, type]) => (
        <Field key={name} name={name} label={label} type={type} />
      ))}
      <p>
        <input id="terms" name="terms" type="checkbox" /> <label htmlFor="terms">I accept the terms of the marina</label>
      </p>
      <div data-field="/terms" />
      <button type="submit">Open the account</button>
    </form>
  );
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <SignUp />
  </StrictMode>,
);
