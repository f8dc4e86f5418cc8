import { Command, CommanderError, Option } from 'commander';
import { RENDER_LAYOUTS, type RenderLayout } from '@/core/adm/render-layouts';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, FILE_KINDS } from '@/core/file-formats/file-formats';
import { FILM_FORMATS, filmFormatOfName } from '@/core/film/film-formats';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { DOWNMIXES } from '@/core/treatment/downmixes';
import { TIME_CODE_RATES } from '@/core/units/time-code';
import {
  type CommonOptions,
  commandOptions,
  measuringOptions,
  onlyFile,
  programmesOf,
  renderingsOf,
  required,
  someFiles,
} from './command-options';
import { checkCommand, complaint, EXIT, measureCommand, type Output, specsCommand } from './commands';
import { addFlags, type FlagGroup, Flags } from './flags';
import type { SourceFacts } from './master-options';
import { mainMessages as messages, spansMessages } from './messages';

/** What the names of written files end in. */
const WRITTEN_EXTENSIONS = [...new Set(FILE_KINDS.map((kind) => `.${FILE_FORMATS[kind].extensions[0]}`))].join(' ');

/** And what those of films end in. */
const FILM_EXTENSIONS = FILM_FORMATS.map(({ extensions }) => `.${extensions[0]}`).join(' ');

/** More than lies between two programmes of anything that is played in order. */
const MOST_GAP_SECONDS = 600;

/** Of what is shorter nothing is measured. */
const LEAST_LIVE_SECONDS = 0.1;

/** Runs one command line and returns its exit code. Results go to print, complaints to complain. */
export async function main(args: readonly string[], output: Output): Promise<number> {
  try {
    return await run(args, output);
  } catch (error) {
    output.complain(complaint(error));
    return EXIT.unusable;
  }
}

async function run(args: readonly string[], output: Output): Promise<number> {
  let exit: number = EXIT.ok;
  // Loaded only where they are wanted: no other command knows the steps.
  const flagGroups = args.includes('master') ? (await import('./master-flags')).MASTER_FLAG_GROUPS : [];
  const program = programOf(output, flagGroups, (code) => {
    exit = code;
  });
  try {
    await program.parseAsync(args, { from: 'user' });
    return exit;
  } catch (error) {
    if (!(error instanceof CommanderError)) throw error;
    // Help was asked for.
    if (error.exitCode === 0) return EXIT.ok;
    const reason = error.message.replace(/^error: /, '').replace(/\.$/, '');
    throw new AppError('usage', { reason }, { cause: error });
  }
}

/** Every command, with its flags and their help. */
function programOf(output: Output, flagGroups: readonly FlagGroup[], end: (code: number) => void): Command {
  const program = new Command('opsimeter')
    .description(messages.summary)
    .exitOverride()
    .configureOutput({ writeOut: (text) => output.print(text.trimEnd()), writeErr: () => undefined })
    .configureHelp({ showGlobalOptions: false, helpWidth: 100 })
    .addHelpText('after', messages.exitCodes)
    .usage('[options] COMMAND')
    .argument('[command]')
    .allowExcessArguments()
    .action((command?: string) => {
      throw new AppError('usage', {
        reason: command === undefined ? messages.noCommand : messages.unknownCommand(command),
      });
    });

  const command = (name: string, files: string, description: string) => {
    const own = program.command(name).description(description).argument(files).allowExcessArguments();
    own.option('--json', messages.json);
    return own;
  };
  const ofTracks = (own: Command) => own.option('--tracks <LIST>', messages.tracks);
  const measuring = (own: Command) =>
    own
      .addOption(new Option('--layout <ID>', messages.layout(LAYOUT_IDS.join(', '))))
      .option('--sha256', messages.hash);
  const ofSpans = (own: Command) =>
    own
      .option('--spans <LIST>', messages.spans)
      .option('--time-code <LABEL@RATE>', messages.timeCode(TIME_CODE_RATES.join(', ')));
  const ofDownmix = (own: Command) => own.addOption(new Option('--downmix <TO>', messages.downmix).choices(DOWNMIXES));

  const ofRender = (own: Command) =>
    own
      .option('--render <LAYOUTS>', messages.render(RENDER_LAYOUTS.join(', ')))
      .option('--audio-programme <ID>', messages.audioProgramme);

  ofRender(ofSpans(ofDownmix(ofTracks(measuring(command('measure', '[FILE...]', messages.measure))))))
    .option('--joined', messages.joined)
    .option('--gap <SECONDS>', messages.gap)
    .action(async (files: string[], options: CommonOptions) => {
      const [some, asJson, how] = [someFiles(files), options.json ?? false, await commandOptions(options)];
      if (!options.joined) return end(await measureCommand(some, asJson, output, programmesOf(options), how));
      if (options.tracks) throw new AppError('usage', { reason: messages.joinedHasNoTracks });
      const gapSeconds = new Flags({ ...options }).number('gap', -MOST_GAP_SECONDS, MOST_GAP_SECONDS) ?? 0;
      const { joinedCommand } = await import('./joined-command');
      end(await joinedCommand(some, gapSeconds, asJson, output, how));
    });
  ofRender(ofSpans(ofDownmix(ofTracks(measuring(command('check', '[FILE...]', messages.check))))))
    .option('--spec <ID>', messages.spec)
    .action(async (files: string[], options: CommonOptions) => {
      const spec = required(options.spec, '--spec ID');
      const [some, asJson, how] = [someFiles(files), options.json ?? false, await commandOptions(options)];
      end(await checkCommand(some, spec, asJson, output, programmesOf(options), how));
    });
  const master = ofSpans(
    ofRender(ofTracks(measuring(command('master', '[FILE...]', messages.master(WRITTEN_EXTENSIONS, FILM_EXTENSIONS))))),
  )
    .option('--spec <ID>', messages.spec)
    .option('--out <FILE>', messages.out)
    .option('--as-adm', messages.asAdm);
  for (const { heading, flags } of flagGroups) addFlags(master, heading, flags);
  master.action(async (files: string[], options: CommonOptions) => {
    const file = onlyFile(files, messages.masterTakesOne);
    // Loaded only now: no other command needs what treats and writes.
    const [{ masterOptions }, { masterCommand }] = await Promise.all([
      import('./master-options'),
      import('./master-command'),
    ]);
    const out = required(options.out, '--out FILE');
    const flags = new Flags({ ...options });
    const [asJson, how, programmes] = [options.json ?? false, measuringOptions(options), programmesOf(options)];
    const film = filmFormatOfName(out);
    if (film && options.timeCode !== undefined) throw new AppError('usage', { reason: messages.timeCodeOfFilm });
    if (film) {
      const { filmCommand } = await import('./film-command');
      return end(await filmCommand(file, out, { film, flags, programmes, asJson, ...how }, output));
    }
    if (flags.text('codec') !== null) throw new AppError('usage', { reason: messages.codecIsOfFilms });
    const [tracks, ...more] = programmes;
    if (more.length > 0) throw new AppError('usage', { reason: messages.oneProgramme });
    const wanted = (source: SourceFacts) => masterOptions(flags, source, out);
    const renderings = await renderingsOf(options);
    if (renderings && renderings.layouts.length > 1)
      throw new AppError('usage', { reason: messages.masterOneRendering });
    const rendering = renderings && {
      layout: renderings.layouts[0] as RenderLayout,
      programmeId: renderings.programmeId,
    };
    const mastering = { ...how, tracks, rendering, wanted, isTracks: options.asAdm };
    if (options.spans === undefined) return end(await masterCommand(file, out, asJson, output, mastering));
    if (['start', 'end'].some((name) => flags.text(name) !== null)) {
      throw new AppError('usage', { reason: spansMessages.withoutTrim });
    }
    const { masterSpansCommand } = await import('./master-spans');
    end(await masterSpansCommand(file, out, options.spans, asJson, output, mastering));
  });
  measuring(command('deliver', '[JOB.json...]', messages.deliver)).action(
    async (files: string[], options: CommonOptions) => {
      const jobFile = onlyFile(files, messages.deliverTakesOne);
      const { deliverCommand } = await import('./deliver-command');
      end(await deliverCommand(jobFile, options.json ?? false, output, measuringOptions(options)));
    },
  );
  measuring(command('verify', '[CERT.json FILE...]', messages.verify)).action(
    async (files: string[], options: CommonOptions) => {
      const [certificate, ...delivered] = someFiles(files);
      const { verifyCommand } = await import('./verify-command');
      const asJson = options.json ?? false;
      end(await verifyCommand(certificate, someFiles(delivered), asJson, output, measuringOptions(options)));
    },
  );
  command('null', '[MIX STEM...]', messages.nullTest)
    .option('--from-start', messages.fromStart)
    .action(async (files: string[], options: CommonOptions) => {
      const [mix, stem, ...rest] = someFiles(files);
      if (stem === undefined) throw new AppError('usage', { reason: messages.nullTakesMore });
      const { nullCommand } = await import('./null-command');
      const how = { asJson: options.json ?? false, fromStart: options.fromStart ?? false };
      end(await nullCommand([mix, stem, ...rest], how, output));
    });
  program
    .command('live')
    .description(messages.live)
    .argument('[INPUT]')
    .allowExcessArguments()
    .option('--seconds <N>', messages.liveSeconds)
    .option('--record <FILE>', messages.liveRecord)
    .option('--float', messages.liveFloat)
    .option('--json', messages.liveJson)
    .action(async (_input: string | undefined, options: CommonOptions, own: Command) => {
      const input = onlyFile(own.args, messages.liveTakesOne);
      const seconds = new Flags({ ...options }).number('seconds', LEAST_LIVE_SECONDS, Number.MAX_SAFE_INTEGER);
      const { liveCommand } = await import('./live-command');
      const { json = false, float = false, record } = options;
      end(await liveCommand(input, output, { asJson: json, isFloat: float, seconds, record }));
    });
  const ofData = (own: Command) => own.option('--data <FOLDER>', messages.data);
  ofData(command('backup', '[FOLDER...]', messages.backup)).action(
    async (folders: string[], options: CommonOptions) => {
      const into = onlyFile(folders, messages.backupTakesOne);
      const { backupCommand } = await import('./backup-command');
      end(await backupCommand(into, options.data, options.json ?? false, output));
    },
  );
  ofData(command('restore', '[FOLDER...]', messages.restore)).action(
    async (folders: string[], options: CommonOptions) => {
      const from = onlyFile(folders, messages.restoreTakesOne);
      const { restoreCommand } = await import('./backup-command');
      end(await restoreCommand(from, options.data, options.json ?? false, output));
    },
  );
  ofData(command('people', '[list|add|passphrase...]', messages.people))
    .option('--role <ROLE>', messages.role)
    .action(async (args: string[], options: CommonOptions) => {
      const { peopleCommand } = await import('./people-command');
      const { data, role, json = false } = options;
      end(await peopleCommand(args, { data, role, asJson: json }, output));
    });
  program
    .command('specs')
    .description(messages.specs)
    .option('--json', messages.json)
    .action((options: CommonOptions) => end(specsCommand(options.json ?? false, output)));
  return program;
}
