import { useEffect, useRef } from 'react';
import { Form, useLocation } from 'react-router';
import { ButtonLink } from '../../../ui/button';

/** The way to search and to start a watch, on every view that lists things. `/` puts the cursor here. */
export function SearchAndNew() {
  const box = useRef<HTMLInputElement>(null);
  const { search } = useLocation();
  useEffect(() => {
    const focus = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName);
      if (event.key !== '/' || typing || event.ctrlKey || event.metaKey) return;
      event.preventDefault();
      box.current?.focus();
    };
    document.addEventListener('keydown', focus);
    return () => document.removeEventListener('keydown', focus);
  }, []);
  return (
    <>
      <Form action="/watches" role="search" className="relative">
        <input
          ref={box}
          key={search}
          name="q"
          type="search"
          aria-label="Find a watch by name or address"
          placeholder="Find a watch or an address"
          defaultValue={new URLSearchParams(search).get('q') ?? ''}
          className="h-[30px] w-[230px] max-w-full border-b border-rule bg-transparent pr-7 placeholder:text-third focus:border-ink focus:outline-none"
        />
        <kbd
          aria-hidden="true"
          className="pointer-events-none absolute top-[6px] right-1 rounded-[3px] border border-rule px-1.5 text-[11px] leading-[17px] text-third"
        >
          /
        </kbd>
      </Form>
      <ButtonLink to="/watches/new" weight="strong">
        New watch
      </ButtonLink>
    </>
  );
}
