#!/usr/bin/env node
import { pathToFileURL } from 'node:url';
import { programFile } from '../scripts/programs.mjs';

await import(pathToFileURL(await programFile('server')));
