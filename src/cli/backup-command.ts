/** `opsimeter backup` and `opsimeter restore`: loaded only for them. */
import { formatBytes } from '@/core/units/format';
import { backUp } from '@/server/backup/backup';
import { restore } from '@/server/backup/restore';
import { EXIT, json, type Output } from './commands';
import { backupMessages as messages } from './messages';

/** Without one that is named: the data folder of the app. */
function dataFolderOf(named: string | undefined): string {
  return named ?? process.env.OPSIMETER_DATA ?? 'data';
}

export async function backupCommand(
  into: string,
  data: string | undefined,
  asJson: boolean,
  output: Output,
): Promise<number> {
  const report = await backUp(dataFolderOf(data), into, new Date());
  if (asJson) output.print(json(report));
  else {
    output.print(messages.saved(report.path, report.files, formatBytes(report.bytes), formatBytes(report.copiedBytes)));
    output.print(messages.keyApart);
  }
  for (const name of report.damaged) output.complain(messages.damaged(name));
  return report.damaged.length > 0 ? EXIT.misses : EXIT.ok;
}

export async function restoreCommand(
  from: string,
  data: string | undefined,
  asJson: boolean,
  output: Output,
): Promise<number> {
  const folder = dataFolderOf(data);
  const report = await restore(from, folder);
  output.print(
    asJson ? json(report) : messages.restored(folder, report.madeAt, report.files, formatBytes(report.bytes)),
  );
  return EXIT.ok;
}
