import type { z } from 'zod';
import { calibrate } from './api/calibrate';
import { exchange } from './api/exchange';
import type { Endpoint } from './api/endpoint';
import { fieldPart } from './api/field';
import { stationPart } from './api/station';
import { house } from './api/house';
import { inspect } from './api/inspect';
import { modalPart } from './api/modal';
import { radioPart } from './api/radio';
import { radioEmissionsPart } from './api/radio-emissions';
import { radioNoisePart } from './api/radio-noise';
import { record } from './api/record';
import { report } from './api/report';
import { rig } from './api/rig';
import { setup } from './api/setup';
import { takes } from './api/takes';

/** Every endpoint of the server by its method and path. One that is not listed does not exist. */
export const API = {
  ...house,
  ...rig,
  ...setup,
  ...calibrate,
  ...record,
  ...takes,
  ...inspect,
  ...report,
  ...exchange,
  ...fieldPart,
  ...stationPart,
  ...radioPart,
  ...radioNoisePart,
  ...radioEmissionsPart,
  ...modalPart,
};
export type Api = typeof API;
export type Key = keyof Api;

type Named<Path extends string> = Path extends `${string}[${infer Name}]${infer Rest}`
  ? (Name extends `...${infer Plain}` ? Plain : Name) | Named<Rest>
  : never;
/** Values within the path of an endpoint. */
export type Params<K extends string> = { [name in Named<K>]: string };

type In<S> = S extends z.ZodType ? z.input<S> : never;
type Out<S> = S extends z.ZodType ? z.output<S> : never;
type Of<K extends Key, Part extends keyof Endpoint> = Api[K] extends Record<Part, infer S> ? S : never;

/** What is sent along, as the browser gives it and as the server gets it. */
export type BodyIn<K extends Key> = In<Of<K, 'body'>>;
export type BodyOut<K extends Key> = Out<Of<K, 'body'>>;
export type QueryOut<K extends Key> = Out<Of<K, 'query'>>;
/** Values after the question mark as they are written: lists joined by commas, what is undefined left out. */
export type QueryIn<K extends Key> = [Of<K, 'query'>] extends [never]
  ? never
  : { [name in keyof In<Of<K, 'query'>>]?: string | number | boolean | readonly (string | number)[] | null };
export type AnswerOf<K extends Key> = Api[K]['answer'] extends z.ZodType
  ? z.output<Api[K]['answer']>
  : Response;

type Asks<Name extends string, T> = [T] extends [never] ? unknown : { [n in Name]: T };
/** What a call of an endpoint needs. */
export type Ask<K extends Key> = (keyof Params<K> extends never ? unknown : { params: Params<K> }) &
  Asks<'body', BodyIn<K>> &
  ([QueryIn<K>] extends [never] ? unknown : { query?: QueryIn<K> }) &
  (Of<K, 'sends'> extends never
    ? unknown
    : Of<K, 'sends'> extends 'file'
      ? { file: File }
      : { form: FormData });
