import initSqlJs from "sql.js";
import type { Database, SqlValue } from "sql.js";

async function open(): Promise<Database> {
  const SQL = await initSqlJs();
  const database = new SQL.Database();
  database.run("create table berths (number integer, vessel text)");
  return database;
}

function occupied(database: Database): readonly SqlValue[] {
  const [result] = database.exec("select number from berths where vessel is not null order by number");
  return result?.values.map(([number]) => number ?? null) ?? [];
}

const database = await open();
const insert = database.prepare("insert into berths values ($number, $vessel)");
for (const [number, vessel] of [[1, "Curlew"], [2, null], [3, "Heron"]] as const) {
  insert.bind({ $number: number, $vessel: vessel });
  insert.step();
  insert.reset();
}
insert.free();
console.log(occupied(database).join(), database.getRowsModified());
const statement = database.prepare("select vessel from berths where number = ?", [3]);
while (statement.step()) console.log(statement.getAsObject()["vessel"], statement.getColumnNames().join());
statement.free();
try {
  database.exec("select * from tugs");
} catch (error) {
  console.log((error as Error).message);
}
database.close();
