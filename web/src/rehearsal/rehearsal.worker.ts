import { expose } from 'comlink';
import { landings, rehearse, type LandingRequest } from '@ascenso/core';

// Functions cannot be handed to a worker: the shares of arms are not asked for here.
const api = { rehearse, landings: (request: LandingRequest) => landings(request) };
export type RehearsalApi = typeof api;
expose(api);
