import knex, { type Knex } from "knex";

interface Berth {
  readonly id: number;
  readonly vessel: string | null;
}

const database: Knex = knex({ client: "better-sqlite3", useNullAsDefault: true });

function free(db: Knex, least: number): Knex.QueryBuilder {
  return db<Berth>("berths").select("id", "vessel").whereNull("vessel").andWhere("length", ">=", least);
}

const query = free(database, 40).orderBy("id", "desc").limit(3);
console.log(query.toString());
console.log(database("tugs").insert({ name: "Brant", pull: 30 }).toString());
const { sql, bindings } = database("berths").where({ id: 4 }).update({ vessel: "Curlew" }).toSQL().toNative();
console.log(sql, bindings.join());
console.log(database.raw("select ?? from ?? where id = ?", ["vessel", "berths", 1]).toString());
console.log(database("berths").count("* as total").groupBy("vessel").toString());
