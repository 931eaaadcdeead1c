import type { App as FarrierApp } from '$service/app';
import type { Access } from '$service/access';

declare global {
  namespace App {
    interface Locals {
      app: FarrierApp;
      access: Access;
    }
    interface Error {
      message: string;
      next?: string;
    }
  }
}

export {};
