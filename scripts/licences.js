/**
 * Prints the packages that the application ships or runs on, by licence (SPDX), as their package.json says.
 * Those that only build or test it are left out.
 */
import { readFileSync } from 'node:fs';

/** @param {string} path */
const read = (path) => JSON.parse(readFileSync(path, 'utf8'));

const { packages } = read('package-lock.json');
/** @type {Map<string, Set<string>>} */
const byLicence = new Map();
for (const [path, { dev, link, optional }] of Object.entries(packages)) {
  if (!path.includes('node_modules/') || dev || link) continue;
  let about;
  try {
    about = read(`${path}/package.json`);
  } catch (error) {
    // What is for another platform is not installed.
    if (optional && error.code === 'ENOENT') continue;
    throw error;
  }
  const licence = about.license?.type ?? about.license ?? 'none said';
  const names = byLicence.get(licence) ?? new Set();
  byLicence.set(licence, names.add(`${about.name} ${about.version}`));
}
for (const [licence, names] of [...byLicence].sort(([, a], [, b]) => b.size - a.size)) {
  console.log(`\n${licence} (${names.size})\n  ${[...names].sort().join(', ')}`);
}
