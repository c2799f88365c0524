import { workerData } from 'node:worker_threads';
import Sqlite from 'better-sqlite3';

/* Copies a database as it stands at one moment, while others go on writing to it. Done in a thread: it may be large. */
const { from, to } = workerData as { from: string; to: string };
const database = new Sqlite(from);
database.exec(`VACUUM INTO '${to.replaceAll("'", "''")}'`);
database.close();
