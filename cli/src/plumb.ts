/* The command line. It reads and compiles only what the verb that is asked for needs: telling what a file says is quick. */
const args = process.argv.slice(2);

const { run } = args[0] === 'info' ? await import('./looking') : await import('./working');
process.exitCode = await run(args);

export {};
