import { workerData } from 'node:worker_threads';
import Sqlite from 'better-sqlite3';

/* Copies a database at one point in time while others write to it. Runs in a thread, because it may be large. */
const { from, to } = workerData as { from: string; to: string };
const database = new Sqlite(from);
database.exec(`VACUUM INTO '${to.replaceAll("'", "''")}'`);
database.close();
