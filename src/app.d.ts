import type { App as FarrierApp } from '$service/app';
import type { Access } from '$service/access';
import type { Viewer } from '$contract/people';

declare global {
  namespace App {
    interface Locals {
      app: FarrierApp;
      access: Access;
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
