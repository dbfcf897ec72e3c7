import { createFsFromVolume, fs, Volume, vol } from "memfs";

vol.fromJSON({ "/office/berths.txt": "4 Curlew", "/office/tugs.txt": "Heron" });
console.log(fs.readFileSync("/office/berths.txt", "utf8"), vol.readdirSync("/office").join());
const volume = Volume.fromJSON({ "a.txt": "1" }, "/data");
const own = createFsFromVolume(volume);
own.writeFileSync("/data/b.txt", "2");
console.log(own.existsSync("/data/b.txt"), JSON.stringify(volume.toJSON()));
await own.promises.mkdir("/data/deep/er", { recursive: true });
console.log(own.statSync("/data/deep").isDirectory());
try {
  fs.readFileSync("/none");
} catch (error) {
  console.log((error as NodeJS.ErrnoException).code);
}
vol.reset();
