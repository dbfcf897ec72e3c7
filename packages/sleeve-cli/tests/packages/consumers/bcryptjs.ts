import bcrypt from "bcryptjs";
import { getRounds, hashSync } from "bcryptjs";

const salt = bcrypt.genSaltSync(4);
const hash = hashSync("harbour", salt);
console.log(bcrypt.compareSync("harbour", hash), bcrypt.compareSync("quay", hash), getRounds(hash));
console.log(await bcrypt.compare("harbour", await bcrypt.hash("harbour", 4)));
bcrypt.hash("fog", 4, (error, made) => {
  console.log(error, made?.length);
  if (made) bcrypt.compare("fog", made, (failure, same) => console.log(failure, same));
});
console.log(bcrypt.truncates("short"), bcrypt.getSalt(hash).length);
