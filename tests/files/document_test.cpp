#include "elbowroom/files/document.hpp"

#include <catch2/catch.hpp>

using namespace er;

namespace {

std::string document_error(const std::string& text) {
  try {
    parse_document(text, "f");
  } catch (const InputError& error) {
    return error.what();
  }
  return "no error";
}

}  // namespace

TEST_CASE("every value knows its line and column, counted in characters") {
  const Node root = parse_document("a: 1\nüö: {b: [x, yy, z]}\n", "f");
  CHECK(root.find("a")->text == "1");
  CHECK(root.find("a")->place.line == 1);
  CHECK(root.find("a")->place.column == 4);
  const Node& map = *root.find("üö");
  CHECK(map.place.column == 5);  // two characters and ": ", whatever the bytes
  CHECK(map.find("b")->items[1].place.column == 13);
  CHECK(map.find("b")->items[2].place.text() == "f:2:17");
  CHECK(root.find("none") == nullptr);
}

TEST_CASE("a byte-order mark and Windows line ends do no harm") {
  const Node root = parse_document(
      "\xEF\xBB\xBF"
      "a: 1\r\nb: two\r\n",
      "f");
  CHECK(root.find("a")->text == "1");
  CHECK(root.find("b")->text == "two");
  CHECK(root.find("b")->place.text() == "f:2:4");
}

TEST_CASE("what these files do not use is refused where it stands") {
  CHECK(document_error("a: 1\nb: 2\na: 3\n") ==
        "f:3:1: the key 'a' stands twice, first in line 1\n  keep one of them");
  CHECK(document_error("a: &x 1\n") ==
        "f:1:4: an anchor (&name) is not used in these files\n  write the value out");
  CHECK(document_error("a: *x\n").find("f:1:") == 0);
  CHECK(document_error("a: !!float 1\n")
            .find("a tag (tag:yaml.org,2002:float) is not used in these files") !=
        std::string::npos);
  CHECK(document_error("a: 1\n---\nb: 2\n") ==
        "f:3:1: a second document begins in this file\n  keep one document to a file");
  CHECK(document_error("? [a]\n: 1\n").find("a key must be a plain word") != std::string::npos);
  CHECK(document_error("") == "f:1:1: the file is empty");
  CHECK(document_error("a: [1, 2\n").find("this is not well-formed YAML: ") != std::string::npos);
  CHECK(document_error("a:\n  b: 1\n c: 2\n").find("f:") == 0);
  CHECK(document_error(std::string(3000, '[')).find("f:1:") == 0);  // no stack is overrun
}

TEST_CASE("places are found from description keys") {
  const Node root =
      parse_document("links:\n  - name: a\n  - name: b\n    joint: {axis: [0, 0, 0]}\n", "f");
  CHECK(node_at(root, "links[1].joint.axis").place.text() == "f:4:19");
  CHECK(node_at(root, "links[1].joint.range").place.text() ==
        "f:4:12");  // the nearest value above it
  CHECK(node_at(root, "links[7].name").place.text() == "f:2:3");
}

TEST_CASE("typed values say what was expected and found") {
  const Node root = parse_document("a: {x: 1}\nb: [1 mm, 2 mm]\nc: 3 deg\nd:\n", "f");
  CHECK_THROWS_WITH(as_text(*root.find("a"), "a name"),
                    "f:1:4: expected a name, found a group of keys");
  CHECK_THROWS_WITH(as_vector(*root.find("b"), dimension::length, "a position"),
                    "f:2:4: expected three values for a position, found 2");
  CHECK_THROWS_WITH(as_quantity(*root.find("c"), dimension::length),
                    Catch::StartsWith("f:3:4: expected a length"));
  CHECK_THROWS_WITH(as_list(*root.find("d"), "links"),
                    Catch::EndsWith("expected a list of links, found nothing"));
  CHECK_THROWS_WITH(need(*root.find("a"), "a link", "name"), "f:1:4: a link needs the key 'name'");
  CHECK_THROWS_WITH(expect_keys(*root.find("a"), "a link", {"name"}),
                    "f:1:5: unknown key in a link 'x'\n  known: name");
}
