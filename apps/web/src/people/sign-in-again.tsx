import { DialogTitle, Field, Input, Label } from '@headlessui/react';
import { useForm } from 'react-hook-form';
import { useNavigate } from 'react-router';
import type { MeDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { useAppDispatch } from '../app/store';
import { Button } from '../ui/button';
import { FailureNotice } from '../ui/notice';
import { Overlay } from '../ui/overlay';
import { goesOn, useBeginSession } from './session';

/** Over the page whose session ended, which keeps all it holds; the same person goes on where they were. */
export default function SignInAgain({ me }: { readonly me: MeDto }) {
  const { register, handleSubmit } = useForm<{ password: string }>();
  const [signIn, { error, isLoading }] = api.usePeopleSignInMutation();
  const demo = (api.usePeopleDemoSignInsQuery().data ?? []).find(({ name }) => name === me.name);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const begin = useBeginSession();
  const enter = async ({ password }: { password: string }) => {
    const answer = await signIn({ signInDto: { name: me.name, password } });
    if (!answer.data) return;
    begin(answer.data);
    dispatch(goesOn(answer.data));
  };
  const other = async () => {
    dispatch(api.util.resetApiState());
    await navigate('/sign-in');
  };
  return (
    <Overlay place="middle" look="w-96 max-w-full space-y-3 p-4" onClose={() => undefined}>
      <DialogTitle className="font-serif text-section">Your session has ended</DialogTitle>
      <p className="text-ink-soft">All that is open here stays as it is. What is not saved yet is saved when you have signed in.</p>
      <form onSubmit={(event) => void handleSubmit(enter)(event)} className="space-y-3">
        <Field className="space-y-1">
          <Label className="block text-ink-soft">Password of {me.shownName}</Label>
          <Input
            autoFocus
            type="password"
            autoComplete="current-password"
            {...register('password', { required: true })}
            className="h-8 w-full rounded border bg-paper px-2"
          />
        </Field>
        <FailureNotice failure={failureOf(error)} />
        <div className="flex flex-wrap gap-2">
          <Button type="submit" kind="primary" disabled={isLoading}>
            Sign in again
          </Button>
          {demo && (
            <Button onClick={() => void enter({ password: demo.password })} disabled={isLoading}>
              As the demo {demo.role}
            </Button>
          )}
          <Button kind="quiet" onClick={() => void other()}>
            Somebody else
          </Button>
        </div>
      </form>
    </Overlay>
  );
}
