import { useState } from 'react';
import { describeWall, type Wall } from '#core/read/inspect/wall';
import { Button } from '../../../../ui/button';
import { TextField } from '../../../../ui/field';
import type { usePassing } from './use-passing';

interface WallBeforeProps {
  wall: Wall;
  /** What is done in the browser already before the page is read, in words. */
  steps: string[];
  passing: ReturnType<typeof usePassing>;
}

/** What stands before the page, and how it is passed: by pressing what leads through, here or on the picture. */
export function WallBefore({ wall, steps, passing }: WallBeforeProps) {
  return (
    <div className="mb-3 border-l-[3px] border-chestnut py-1 pl-3" role="status" data-wall={wall.kind}>
      <p className="font-medium">{describeWall(wall.kind)}</p>
      {wall.kind === 'sign-in' && wall.fields.length > 0 ? (
        <SignIn wall={wall} passing={passing} />
      ) : (
        <>
          <p className="text-second">
            Press what leads through, here or on the picture. Shrike presses it from then on before it reads
            {wall.kind === 'cover' ? ', or reads what lies behind as it is.' : '.'}
          </p>
          <p className="mt-2 flex flex-wrap gap-3">
            {wall.buttons.map((button) => (
              <Button key={button.n} disabled={passing.busy} onClick={() => passing.press(button, true)}>
                {button.words}
              </Button>
            ))}
          </p>
        </>
      )}
      {steps.length === 0 ? null : (
        <p className="mt-2 text-glance text-third">It still stands there after: {steps.join(', ')}.</p>
      )}
    </div>
  );
}

function SignIn({ wall, passing }: Pick<WallBeforeProps, 'wall' | 'passing'>) {
  const [texts, setTexts] = useState<Record<number, string>>({});
  const fields = wall.fields.map((field, at) => ({ ...field, text: texts[at] ?? '' }));
  const whole = fields.every(({ text }) => text !== '');
  return (
    <>
      <p className="text-second">Fill it in as you would there. What is secret is sealed, and shown to nobody again.</p>
      <div className="mt-2 flex flex-wrap items-end gap-4">
        {fields.map((field, at) => (
          <TextField
            key={`${field.label} ${at}`}
            label={field.label}
            type={field.secret ? 'password' : 'text'}
            autoComplete="new-password"
            className="w-44"
            value={field.text}
            onChange={(event) => setTexts({ ...texts, [at]: event.target.value })}
          />
        ))}
        {wall.buttons.map((button) => (
          <Button key={button.n} disabled={passing.busy || !whole} onClick={() => passing.signIn(fields, button)}>
            {button.words}
          </Button>
        ))}
      </div>
    </>
  );
}
