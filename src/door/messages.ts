/** What whoever starts the app, or asks it in a way that it does not answer, is told. */
export const doorMessages = {
  onlyOwnPages: 'Opsimeter answers only to pages of its own.',
  unknownMethod: (method: string) => `${method} means nothing here.`,
  leadsNowhere: 'its path leads nowhere',
  isAt: (address: string) => `Opsimeter is at ${address}`,
  couldNotStart: (reason: string) => `Opsimeter could not start. ${reason}`,
  firstPageFailed: 'The first page failed.',
  portTaken: (port: number) =>
    `Port ${port} is taken by another program (maybe Opsimeter is already running). Set PORT to another one: PORT=4171 npm run demo`,
  portUnusable: (port: number, host: string, reason: string) => `Port ${port} on ${host} can not be used: ${reason}`,
  namesNeeded:
    'Beyond this machine it has to know what it is called: name it in OPSIMETER_NAMES, as browsers do (desk.example, or desk.example:4170).',
  tlsNeeded:
    'Beyond this machine it needs TLS: name a certificate and its key in OPSIMETER_TLS_CERT and OPSIMETER_TLS_KEY, or set OPSIMETER_PROXY=1 where a proxy in front of it has TLS.',
  tlsMissing: (path: string) => `TLS needs both a certificate and its key: ${path || 'one of them'} is not there.`,
  nobodyThere:
    'Only people who sign in may use it, and there is nobody yet. Add an engineer first: opsimeter people add NAME',
};
