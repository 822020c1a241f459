import { expose } from 'comlink';
import { rehearse } from '@ascenso/core';

const api = { rehearse };
export type RehearsalApi = typeof api;
expose(api);
