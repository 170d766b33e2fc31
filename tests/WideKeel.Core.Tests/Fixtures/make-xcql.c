/* XCQL by the reference converter: Debian packages libyaz5 and libyaz-dev 5.34.0 (BSD). The queries are those of the Library of Congress'
 * sample page as they stand in that package's source, test/cql2xcqlsample.
 * Build and run: gcc make-xcql.c -o make-xcql -lyaz && grep -v '^#' cql2xcqlsample | grep -v '^ *$' | ./make-xcql > xcql.txt
 * A query stands on a line that begins with "=== "; its XCQL, or ERROR, stands beneath. */
#include <stdio.h>
#include <string.h>
#include <yaz/cql.h>

static void print(const char *text, void *to) { fputs(text, (FILE *)to); }

int main(void)
{
    char line[65536];
    while (fgets(line, sizeof line, stdin)) {
        line[strcspn(line, "\n")] = 0;
        CQL_parser parser = cql_parser_create();
        printf("=== %s\n", line);
        if (cql_parser_string(parser, line))
            puts("ERROR");
        else
            cql_to_xml(cql_parser_result(parser), print, stdout);
        cql_parser_destroy(parser);
    }
    return 0;
}
