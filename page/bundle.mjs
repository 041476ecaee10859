// Makes one HTML document of the page, and a C++ file that holds it.
// Usage: node bundle.mjs OUTPUT.html OUTPUT.cpp

import { readFileSync, writeFileSync } from "node:fs";
import { gzipSync } from "node:zlib";
import { build } from "esbuild";

const most = 300 * 1024; // bytes, compressed

const made = await build({
  entryPoints: ["src/app.js"],
  bundle: true,
  minify: true,
  write: false,
  format: "iife",
  target: "es2022",
  loader: { ".js": "jsx", ".css": "text", ".gz": "binary" },
  jsx: "automatic",
  jsxImportSource: "preact",
  legalComments: "inline",
  define: { "process.env.NODE_ENV": '"production"' },
  outdir: "out",
});
const script = made.outputFiles.find((f) => f.path.endsWith(".js")).text.replaceAll("</script", "<\\/script");
const document = readFileSync("src/index.html", "utf8").replace("/*SCRIPT*/", () => script);
const size = gzipSync(document).length;
if (size > most) {
  throw new Error(`the page has ${size} bytes compressed; it may have ${most}`);
}
writeFileSync(process.argv[2], document);

const pieces = document.match(/[\s\S]{1,8000}/gu).map((piece) => `R"__page__(${piece})__page__"`);
writeFileSync(
  process.argv[3],
  `// Made by page/build.
#include "gateway/serve/page.hpp"

WIRED_COURIER_NAMESPACE_BEGIN
namespace detail {

std::string_view page_document() noexcept {
    return ${pieces.join("\n")};
}

} // namespace detail
WIRED_COURIER_NAMESPACE_END
`,
);
console.log(`page: ${document.length} bytes, ${size} compressed`);
