import type { ButtonHTMLAttributes } from 'react';
import { Link, type LinkProps } from 'react-router';

type Weight = 'strong' | 'plain' | 'quiet';

const SHAPE =
  'inline-flex h-[30px] items-center justify-center gap-1.5 rounded-[2px] px-3 text-read font-semibold ' +
  'whitespace-nowrap disabled:opacity-45';

const WEIGHTS: Record<Weight, string> = {
  strong: 'bg-ink text-page border border-ink hover:bg-second hover:border-second',
  plain: 'border border-third text-ink hover:border-ink',
  quiet: 'border border-transparent text-second hover:text-ink px-1.5',
};

/** A button: strong for the one thing a view is for, plain for the others, quiet for what stands back. */
export function Button({
  weight = 'plain',
  className = '',
  type = 'button',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { weight?: Weight }) {
  return <button type={type} className={`${SHAPE} ${WEIGHTS[weight]} ${className}`} {...rest} />;
}

/** A link that looks like a button, because it begins something. */
export function ButtonLink({ weight = 'plain', className = '', ...rest }: LinkProps & { weight?: Weight }) {
  return <Link className={`${SHAPE} ${WEIGHTS[weight]} ${className}`} {...rest} />;
}
