import type { Guard } from '#core/read/guard';
import type { Result } from '#core/result';
import type { AddressProblem } from '../addresses';
import type { FetchProblem } from '../problem';
import type { Sealed } from '../sealed';
import type { Picture } from './picture';
import type { Step } from './steps';

// What a worker and the process of its browser say to one another. The process holds no secrets, no rules and no
// connection to the database: it asks for what it needs, one answer at a time.

/** Bounds on rendering. */
export interface RenderLimits {
  executable: string;
  pagesAtOnce: number;
  timeoutMs: number;
  mostBytes: number;
  userAgent: string;
}

/** What to render. */
export interface RenderRequest {
  address: string;
  steps: Step[];
}

/** A page as the browser brought it. */
export interface RenderedPage {
  status: number;
  html: string;
  finalAddress: string;
  picture: Picture;
}

/** A picture after one step, while steps are tried. */
export interface StepPicture {
  said: string;
  image: Buffer;
  problem: string | null;
}

/** What the process may ask of the worker. */
export interface Questions {
  /** The address to connect to for a host and port, checked. */
  check: (host: string, port: number) => Promise<Result<string, AddressProblem>>;
  /** A secret, for the host it was entered for. */
  open: (sealed: Sealed, host: string) => Promise<string | null>;
  /** The certificate of a host that is trusted by hand. */
  trusted: (host: string) => Promise<string | null>;
  /** Why a page fails a guard; null when it passes. */
  guard: (html: string, guard: Guard, address: string) => Promise<string | null>;
}

/** What the process brings of one page. */
export type Taken =
  | { what: 'render'; result: Result<RenderedPage, FetchProblem> }
  | { what: 'try'; result: Result<StepPicture[], FetchProblem> };

/** From the worker to the process. */
export type ToProcess =
  | { take: number; what: Taken['what']; request: RenderRequest; limits: RenderLimits }
  | { answer: number; value: unknown }
  | { answer: number; failed: string }
  | { close: true };

/** From the process to the worker. */
export type FromProcess =
  { taken: number; by: Taken; refused: string[] } | { ask: number; question: keyof Questions; given: unknown[] };
