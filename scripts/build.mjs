import { say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

// Makes everything that runs in earnest: the packages, and dist of server, web and stand-ins.
await ensurePackages();
await ensureBuilt();
say('Built: server/dist and web/dist.');
