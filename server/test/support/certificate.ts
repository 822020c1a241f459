import { execFileSync } from 'node:child_process';
import path from 'node:path';

/** A certificate for loopback that signs itself, by openssl. Answers the files of certificate and key. */
export function selfSigned(folder: string): { cert: string; key: string } {
  const cert = path.join(folder, 'cert.pem');
  const key = path.join(folder, 'key.pem');
  execFileSync(
    'openssl',
    [
      ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes', '-days', '2'],
      ...['-subj', '/CN=localhost', '-addext', 'subjectAltName=DNS:localhost,IP:127.0.0.1,IP:::1'],
      ...['-keyout', key, '-out', cert],
    ],
    { stdio: 'pipe' },
  );
  return { cert, key };
}
