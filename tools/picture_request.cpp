// SPDX-License-Identifier: MIT
#include "picture_request.hpp"

#include "drawing.hpp"
#include "output.hpp"

namespace tool {

void add_picture(option_set& options, picture_request& request) {
    options
        .file("--dot", request.dot, "Write the picture in the language of Graphviz to this file ('-': standard output)")
        .file("--svg", request.svg, "Draw the picture into this file");
}

void check_picture(const picture_request& request) {
    check_not_the_recording(request.file, "--dot", request.dot);
    check_not_the_recording(request.file, "--svg", request.svg);
}

void draw_picture(const picture_request& request, const std::string& dot) {
    if (!request.dot.empty()) {
        write_text(request.dot, dot);
    }
    if (!request.svg.empty()) {
        draw("dot", {"-Tsvg", "-o"}, "graphviz", dot, request.svg);
    }
}

} // namespace tool
