import { readFileSync } from 'node:fs';
import { createConfig, lintFromString } from '@redocly/openapi-core';
import spectralCore from '@stoplight/spectral-core';
import rulesets from '@stoplight/spectral-rulesets';
const text = readFileSync('/tmp/openapi.json', 'utf8');
const config = await createConfig({ extends: ['recommended'] });
const problems = await lintFromString({ source: text, absoluteRef: '/openapi.json', config });
const count: Record<string, number> = {};
for (const p of problems) { count[p.ruleId] = (count[p.ruleId] ?? 0) + 1; if (count[p.ruleId]! <= 2) console.log('redocly', p.severity, p.ruleId, p.message, p.location[0]?.pointer); }
const { Spectral, Document } = spectralCore as any;
const s = new Spectral();
s.setRuleset({ extends: [(rulesets as any).oas] });
const found = await s.run(JSON.parse(text));
const c2: Record<string, number> = {};
for (const p of found) { c2[p.code] = (c2[p.code] ?? 0) + 1; if (c2[p.code]! <= 3) console.log('spectral', p.severity, p.code, p.message, p.path.join('/')); }
console.log(count, c2);
