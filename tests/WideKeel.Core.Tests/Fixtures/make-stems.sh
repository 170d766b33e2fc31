#!/bin/sh
# Words and their stems by an independent program: stemwords of the Debian package libstemmer-tools 2.2 (BSD), algorithm "porter", over every
# tenth word of the vocabulary in golang-github-dataence-porter2-dev (Apache-2.0). Run: sh make-stems.sh > stems.txt
words=$(awk 'NR % 10 == 0 && /^[a-z]+$/' /usr/share/gocode/src/github.com/dataence/porter2/voc.txt)
echo "$words" > words.tmp
stemwords -l porter -i words.tmp | paste -d' ' words.tmp -
rm words.tmp
