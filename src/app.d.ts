import type { App as FarrierApp } from '$service/app';
import type { Access } from '$service/access';
import type { Viewer } from '$contract/people';

declare global {
  namespace App {
    interface Locals {
      app: FarrierApp;
      access: Access;
      /** Whether it may see what is here: on this computer, with the phrase, or by a link. */
      letIn: boolean;
      /** It is a program that came with a token. */
      program: boolean;
      /** Whose browser the request comes from. */
      person: { viewer: Viewer; watches: boolean };
    }
    interface Error {
      message: string;
      next?: string;
    }
  }
}

export {};
