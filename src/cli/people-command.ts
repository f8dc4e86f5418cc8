/** `opsimeter people`: who may use the app from a network. Loaded only for it. */
import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { ROLES, type Role } from '@/core/access/rights';
import { AppError } from '@/core/errors/app-error';
import { openDatabase } from '@/server/db/client';
import { addPerson, changePerson, personFields, personNamed, viewPeople } from '@/server/people/people';
import { DataFolder } from '@/server/storage/data-folder';
import { EXIT, json, type Output } from './commands';
import { peopleMessages as messages } from './messages';

/** As whom it is done: whoever may use the machine. */
const BY = 'command line';

interface PeopleOptions {
  data: string | undefined;
  role: string | undefined;
  asJson: boolean;
}

/** `add NAME`, `passphrase NAME` or `list`. A passphrase is asked for, or read as the first line of the standard input. */
export async function peopleCommand(args: readonly string[], options: PeopleOptions, output: Output): Promise<number> {
  const [what, name, ...rest] = args;
  if (rest.length > 0 || !(what === 'list' ? name === undefined : name !== undefined)) throw usage();
  const db = openDatabase(new DataFolder(options.data).database);
  const server = { db, clock: Date };
  try {
    switch (what) {
      case 'list': {
        const { people } = viewPeople(server);
        if (options.asJson) output.print(json(people.map(({ id, name: own, role }) => ({ id, name: own, role }))));
        else for (const { name: own, role } of people) output.print(`${own}, ${role}`);
        return EXIT.ok;
      }
      case 'add': {
        const role = ROLES.find((own) => own === (options.role ?? 'engineer'));
        if (!role) throw new AppError('usage', { reason: messages.unknownRole(ROLES.join(', ')) });
        await addPerson(server, BY, personOf(name as string, role, await readPassphrase()));
        output.print(messages.added(name as string, role));
        return EXIT.ok;
      }
      case 'passphrase': {
        const person = personNamed(server, name as string);
        if (!person) throw new AppError('not-found', { what: 'person' });
        const { passphrase } = personOf(person.name, person.role, await readPassphrase());
        await changePerson(server, BY, person.id, { passphrase });
        output.print(messages.changed(person.name));
        return EXIT.ok;
      }
      default:
        throw usage();
    }
  } finally {
    db.$client.close();
  }
}

const usage = () => new AppError('usage', { reason: messages.peopleUsage });

/** Throws `usage` where something of it is not as it has to be. */
function personOf(name: string, role: Role, passphrase: string) {
  const parsed = personFields.safeParse({ name, role, passphrase });
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new AppError('usage', { reason: messages.notAPerson(String(issue?.path[0]), issue?.message ?? '') });
}

/** What is typed is not shown. */
async function readPassphrase(): Promise<string> {
  const { stdin, stderr } = process;
  if (stdin.isTTY) stderr.write(messages.passphrase);
  const silent = new Writable({ write: (_bytes, _encoding, done) => done() });
  const lines = createInterface({ input: stdin, output: silent, terminal: stdin.isTTY ?? false });
  try {
    for await (const line of lines) return line;
    return '';
  } finally {
    lines.close();
    if (stdin.isTTY) stderr.write('\n');
  }
}
