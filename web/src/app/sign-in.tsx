import { useState, type FormEvent } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { sentence, useSignInMutation } from './api.ts';
import { Mark } from './shell.tsx';
import { Button, TextField } from '../ui/index.tsx';

export function SignIn() {
  const [signIn, { error, isLoading }] = useSignInMutation();
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const navigate = useNavigate();
  const from = (useLocation().state as { from?: string } | null)?.from ?? '/sequences';
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const answer = await signIn({ email, password });
    if ('data' in answer) await navigate(from, { replace: true });
  };
  return (
    <main className="flex min-h-screen items-center justify-center p-6">
      <form
        onSubmit={(e) => void submit(e)}
        className="flex w-full max-w-sm flex-col gap-4 rounded-sheet border border-line bg-sheet p-7"
      >
        <h1 className="flex items-center gap-2 text-[22px] font-bold">
          <Mark />
          Ascenso
        </h1>
        <p className="text-ink-2">Sequences of emails that go out while you do something else.</p>
        <TextField
          label="Email"
          type="email"
          autoComplete="username"
          required
          value={email}
          onChange={(e) => setEmail(e.target.value)}
        />
        <TextField
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(e) => setPassword(e.target.value)}
          error={error ? sentence(error) : undefined}
        />
        <Button tone="main" type="submit" disabled={isLoading}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
