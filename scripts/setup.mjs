/* Brings a fresh machine to where everything runs: the dependencies, and a browser when one is needed. */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { writeIcons } from './icons.mjs';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Chromium without windows draws the same in four fifths of the time. */
const WITHOUT_WINDOWS = '/usr/bin/chromium-headless-shell';
const BROWSERS = ['/usr/bin/chromium', '/usr/bin/chromium-browser'];

/** Path of a Chromium: the environment's, or the system's; null when there is none. */
function findBrowser(paths = BROWSERS) {
  const asked = process.env.CHROMIUM_PATH;
  if (asked && existsSync(asked)) return asked;
  return paths.find((path) => existsSync(path)) ?? null;
}

/** The one that the interface tests run in. */
export const testBrowser = () => findBrowser([WITHOUT_WINDOWS, ...BROWSERS]);

/** Installs the locked dependencies when they are missing or another lock file was used, and makes what is made of them. */
export function ensureDependencies() {
  installDependencies();
  writeIcons(root);
}

function installDependencies() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) fail(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`);
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const stamp = join(root, 'node_modules/.able-plumb-lock');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  process.stderr.write('Installing the dependencies (npm ci) ...\n');
  // no package needs its install script; leaving them out keeps the installation quick and quiet
  const result = spawnSync('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  if (result.status !== 0) fail('npm ci failed; the messages above say why.');
  writeFileSync(stamp, lock);
}

/** Checkerboard pictures with a published calibration, which the tests measure against. */
const BOARDS = 'usr/share/doc/opencv-doc/examples/data/left_intrinsics.yml';
const UNPACKED = join(root, '.cache/opencv-doc');
const hasBoards = () => existsSync(`/${BOARDS}`) || existsSync(join(UNPACKED, BOARDS));

/** Picture files of every kind, odd and broken ones among them, from the tests of other programs. */
const ODD_PICTURES = join(root, '.cache/odd-pictures');
const ODD_PACKAGES = ['golang-1.19-src', 'golang-golang-x-image-dev', 'golang-github-disintegration-imaging-dev', 'gdk-pixbuf-tests'];
const ODD_STAMP = join(ODD_PICTURES, 'complete');

/** A server of static files that the application is tried under, as others would host it. */
const NGINX = join(root, '.cache/nginx');
const hasNginx = () => existsSync('/usr/sbin/nginx') || existsSync(join(NGINX, 'usr/sbin/nginx'));

/** The reference programs of JPEG XL. */
const hasLibjxl = () => spawnSync('djxl', ['--version'], { stdio: 'ignore' }).status === 0;

/** GNU parallel, which a large archive may be run with. */
const hasParallel = () => String(spawnSync('parallel', ['--version']).stdout).includes('GNU parallel');

/** Installs what the tests need of Debian, where it is missing and this account may: Chromium, GNU parallel, OpenCV's sample pictures, odd pictures. */
export function ensureTestMaterial() {
  // not every Debian has it
  if (!process.env.CHROMIUM_PATH && !existsSync(WITHOUT_WINDOWS)) installFromDebian(['chromium-headless-shell']);
  const wanted = [
    ...(testBrowser() ? [] : ['chromium']),
    ...(hasBoards() ? [] : ['opencv-doc']),
    ...(hasParallel() ? [] : ['parallel']),
    ...(hasLibjxl() ? [] : ['libjxl-tools']),
  ];
  if (wanted.length > 0) installFromDebian(wanted);
  if (!testBrowser()) fail('The interface tests need Chromium: install it (apt-get install chromium), or name one in CHROMIUM_PATH.');
  if (!hasLibjxl()) fail('The picture tests need the programs of libjxl: install them (apt-get install libjxl-tools).');
  if (!hasParallel()) fail('The tests of large archives need GNU parallel: install it (apt-get install parallel).');
  // some installations leave out everything under /usr/share/doc
  if (!hasBoards()) unpackPackages(UNPACKED, ['opencv-doc']);
  if (!hasBoards()) fail('The lens tests need the sample pictures of OpenCV: install them (apt-get install opencv-doc).');
  // it is not installed: that would start it
  if (!hasNginx()) unpackPackages(NGINX, ['nginx']);
  if (!hasNginx()) fail('The test of hosting needs nginx: install it (apt-get install nginx).');
  if (!existsSync(ODD_STAMP)) {
    process.stderr.write(`Unpacking the pictures of ${ODD_PACKAGES.join(', ')} ...\n`);
    const complete = unpackPackages(ODD_PICTURES, ODD_PACKAGES);
    if (!complete) fail(`The picture tests need the pictures of ${ODD_PACKAGES.join(', ')}: apt-get download must reach a Debian mirror.`);
    writeFileSync(ODD_STAMP, '');
  }
}

/** Python with OpenCV, as Debian installs it: what the bench measures against. */
const PYTHON = '/usr/bin/python3';
const hasOpenCv = () => spawnSync(PYTHON, ['-c', 'import cv2'], { stdio: 'ignore' }).status === 0;

/** Installs what the bench needs of Debian, where it is missing and this account may: OpenCV, and Chromium where that is measured. */
export function ensureBenchMaterial(browser) {
  const wanted = [...(browser && !findBrowser() ? ['chromium'] : []), ...(hasOpenCv() ? [] : ['python3-opencv'])];
  if (wanted.length > 0) installFromDebian(wanted);
  if (browser && !findBrowser())
    fail('The browser is measured with Chromium: install it (apt-get install chromium), or name one in CHROMIUM_PATH.');
  if (!hasOpenCv()) process.stderr.write('OpenCV is not measured: apt-get install python3-opencv.\n');
}

/** Unpacks Debian packages beside the project without installing them; true when all are there. */
function unpackPackages(folder, packages) {
  mkdirSync(folder, { recursive: true });
  const download = () =>
    spawnSync('apt-get', ['-qq', 'download', ...packages], { cwd: folder, stdio: ['ignore', 'ignore', 'pipe'] }).status === 0;
  if (!download()) {
    updateLists();
    if (!download()) return false;
  }
  const files = readdirSync(folder).filter((name) => name.endsWith('.deb'));
  const unpacked = files.map((file) => spawnSync('dpkg-deb', ['-x', file, '.'], { cwd: folder, stdio: 'ignore' }).status === 0);
  for (const file of files) rmSync(join(folder, file));
  return unpacked.length >= packages.length && unpacked.every(Boolean);
}

/** Debian's package tool as an account that may install; null where there is none. */
function aptAsRoot() {
  const isRoot = process.getuid?.() === 0;
  const sudo = !isRoot && spawnSync('sudo', ['-n', 'true']).status === 0;
  if (spawnSync('apt-get', ['--version']).status !== 0 || !(isRoot || sudo)) return null;
  return (...args) => {
    const command = [...(sudo ? ['sudo', '-n'] : []), 'apt-get', '-qq', ...args];
    execFileSync(command[0], command.slice(1), {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  };
}

function updateLists() {
  try {
    aptAsRoot()?.('update');
  } catch {
    // what follows says what is missing
  }
}

function installFromDebian(packages) {
  const apt = aptAsRoot();
  if (!apt) return;
  process.stderr.write(`Installing ${packages.join(', ')} (apt-get) ...\n`);
  try {
    apt('update');
    apt('install', '-y', '--no-install-recommends', ...packages);
  } catch {
    // the sentences above say what to do
  }
}

/** Ends with one sentence. */
export function fail(sentence) {
  process.stderr.write(`${sentence}\n`);
  process.exit(1);
}

/** Runs a program of the dependencies; true when it succeeded. */
export function run(name, args, options = {}) {
  return spawnSync(join(root, 'node_modules/.bin', name), args, { cwd: root, stdio: 'inherit', ...options }).status === 0;
}

/** The same, while other things run. */
export function runBeside(name, args, options = {}) {
  return new Promise((resolve) => {
    spawn(join(root, 'node_modules/.bin', name), args, { cwd: root, stdio: 'inherit', ...options })
      .on('error', () => resolve(false))
      .on('close', (code) => resolve(code === 0));
  });
}
