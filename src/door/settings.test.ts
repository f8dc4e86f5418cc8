import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { doorSettings } from './settings';

test('loopback needs nothing, and demands nobody', () => {
  expect(doorSettings({})).toMatchObject({ host: '127.0.0.1', port: 4170, scheme: 'http', demandsPeople: false });
  expect([...doorSettings({ PORT: '5000' }).names]).toEqual(['127.0.0.1:5000', 'localhost:5000']);
  expect(doorSettings({ OPSIMETER_PEOPLE: '1' }).demandsPeople).toBe(true);
});

test.each(['0.0.0.0', '192.168.1.5', '::', 'studio.example', '128.0.0.1'])(
  '%s needs names and TLS, and demands people',
  (host) => {
    expect(() => doorSettings({ OPSIMETER_LISTEN: host })).toThrow('OPSIMETER_NAMES');
    const named = { OPSIMETER_LISTEN: host, OPSIMETER_NAMES: 'Desk.example, desk.local:4170' };
    expect(() => doorSettings(named)).toThrow('OPSIMETER_TLS_CERT');
    const proxied = doorSettings({ ...named, OPSIMETER_PROXY: '1' });
    expect(proxied).toMatchObject({ demandsPeople: true, scheme: 'https', tls: null });
    expect([...proxied.names]).toEqual(['desk.example', 'desk.local:4170']);
  },
);

test('behind a proxy on this machine it demands people too, and answers to no name of this machine', () => {
  const settings = doorSettings({ OPSIMETER_PROXY: '1', OPSIMETER_NAMES: 'desk.example' });
  expect(settings.demandsPeople).toBe(true);
  expect([...settings.names]).toEqual(['desk.example']);
  expect(() => doorSettings({ OPSIMETER_PROXY: '1' })).toThrow('OPSIMETER_NAMES');
});

test('a certificate without its key is told', () => {
  const folder = mkdtempSync(join(tmpdir(), 'opsimeter-tls-'));
  const [cert, key] = [join(folder, 'cert.pem'), join(folder, 'key.pem')];
  writeFileSync(cert, 'cert');
  expect(() => doorSettings({ OPSIMETER_TLS_CERT: cert })).toThrow('TLS');
  expect(() => doorSettings({ OPSIMETER_TLS_CERT: cert, OPSIMETER_TLS_KEY: key })).toThrow(key);
  writeFileSync(key, 'key');
  const env = { OPSIMETER_TLS_CERT: cert, OPSIMETER_TLS_KEY: key, OPSIMETER_LISTEN: '0.0.0.0', OPSIMETER_NAMES: 'a' };
  expect(doorSettings(env)).toMatchObject({ scheme: 'https', demandsPeople: true });
  rmSync(folder, { recursive: true });
});
