import { main } from './main';

// A reader that has seen enough (`| head`) is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit();
  throw error;
});

process.exitCode = await main(process.argv.slice(2), {
  print: (line) => process.stdout.write(`${line}\n`),
  complain: (line) => process.stderr.write(`${line}\n`),
});
