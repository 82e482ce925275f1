import pg from 'pg';
import { readFileSync } from 'node:fs';
const url = process.env.DB ?? '';
const c = new pg.Client({ connectionString: url });
await c.connect();
const { rows } = await c.query(process.argv[2] ?? 'SELECT 1');
console.table(rows);
await c.end();
