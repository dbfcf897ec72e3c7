import * as cheerio from "cheerio";
import type { CheerioAPI } from "cheerio";

const page = `<ul id="berths"><li class="free" data-number="1">One</li><li data-number="2">Two</li></ul>`;

function free($: CheerioAPI): readonly string[] {
  return $("li.free")
    .map((_index, element) => $(element).text())
    .get();
}

const $ = cheerio.load(page);
console.log(free($).join());
$("li").each((index, element) => {
  const item = $(element);
  console.log(index, item.attr("data-number"), item.hasClass("free"));
});
$("#berths").append("<li>Three</li>").addClass("list");
console.log($("li").length, $("ul").find("li").last().text());
console.log($.html($("li").first()));
