import { ownerSignUp } from '@pellwick/marina';
import { type IntakeForm, useIntake } from 'jestril/react';
import { StrictMode, useState } from 'react';
import { createRoot } from 'react-dom/client';

// The sign-up of the marina in React: the components draw, the intake judges.

type FieldProps = {
  readonly form: IntakeForm;
  readonly name: string;
  readonly label: string;
} & Omit<React.ComponentProps<'input'>, 'form' | 'name'>;

/** A box with its label, and what is to be mended. */
function Field({ form, name, label, ...more }: FieldProps) {
  const { id, control } = form.field(name);
  return (
    <div>
      <label htmlFor={id}>{label}</label>
      <input {...control} {...more} />
      <Messages form={form} name={name} />
    </div>
  );
}

function Messages({ form, name }: { readonly form: IntakeForm; readonly name: string }) {
  return form.field(name).messages.map(({ id, text, severity }) => (
    <p key={id} id={id} className={severity}>
      {text}
    </p>
  ));
}

function Summary({ form }: { readonly form: IntakeForm }) {
  return (
    <section id={form.summaryId} tabIndex={-1} hidden={form.summary.length === 0 && !form.trouble} aria-label="To mend">
      {form.trouble && <p role="alert">{form.trouble}</p>}
      <ul>
        {form.summary.map(({ key, text, href, move }) => (
          <li key={key}>
            <a
              href={href}
              onClick={(event) => {
                event.preventDefault();
                move();
              }}
            >
              {text}
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}

function SignUp() {
  const [done, setDone] = useState('');
  const [email, setEmail] = useState('');
  const { form, bind } = useIntake(ownerSignUp, {
    judgeAt: 'sign-up/check',
    send: (data, signal) => fetch('sign-up', { method: 'POST', body: data, headers: { accept: 'application/json' }, signal }),
    onAnswer: async (response) => {
      if (response.ok) setDone(`Welcome, ${(await response.json()).name}.`);
    },
  });
  if (done !== '') return <h1>{done}</h1>;
  return (
    <form ref={bind} method="post">
      <h1>Open an account</h1>
      <Summary form={form} />
      <Field form={form} name="name" label="Name" />
      {/* Controlled: what is typed is kept in small letters. */}
      <Field
        form={form}
        name="contact.email"
        label="E-mail"
        value={email}
        onChange={({ target }) => setEmail(target.value.toLowerCase())}
      />
      <Field form={form} name="contact.phone" label="Phone" />
      <Field form={form} name="born" label="Born" />
      <Field form={form} name="passphrase" label="Passphrase" autoComplete="new-password" />
      <Field form={form} name="passphraseAgain" label="Passphrase again" autoComplete="new-password" />
      <p>
        <input type="checkbox" {...form.field('terms').control} />{' '}
        <label htmlFor={form.field('terms').id}>I accept the terms of the marina</label>
      </p>
      <Messages form={form} name="terms" />
      <button type="submit" disabled={form.isPending}>
        Open the account
      </button>
    </form>
  );
}

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <SignUp />
  </StrictMode>,
);
