namespace WideKeel.Core.Query;

/// <summary>What can stand at a place of a query.</summary>
public enum CompletionKind
{
    /// <summary>An index, or a word to look for.</summary>
    Index,
    Relation,

    /// <summary>A value of <see cref="CompletionPlace.Index"/>.</summary>
    Value,

    /// <summary>and, or, not, prox or sortby.</summary>
    Operator,
}

/// <summary>A place in a query that is being typed.</summary>
/// <param name="Begun">What is typed of it already, without its quote.</param>
/// <param name="Span">The characters that a completion takes the place of.</param>
/// <param name="Index">The index whose value is wanted.</param>
public readonly record struct CompletionPlace(CompletionKind Kind, string Begun, TextSpan Span, string? Index);

/// <summary>
/// Finds out what is being typed, from what stands before the caret. What stands after it is not looked at.
/// </summary>
public static class QueryCompletion
{
    public static CompletionPlace At(string text, int caret, QueryVocabulary? vocabulary = null)
    {
        vocabulary ??= QueryVocabulary.Items;
        var before = text[..Math.Clamp(caret, 0, text.Length)];
        List<CqlToken> tokens = [];
        var lexer = new CqlLexer(before);
        try
        {
            for (var token = lexer.Next(); token.Kind != CqlTokenKind.End; token = lexer.Next())
            {
                tokens.Add(token);
            }
        }
        catch (CqlMistake)
        {
            // A quote is open: what is in it is being typed.
            var open = lexer.Position;
            return Place(vocabulary, tokens, before[(open + 1)..], new(open, before.Length - open));
        }

        if (tokens is [.., { Kind: CqlTokenKind.Word } last] && last.Span.End == before.Length)
        {
            tokens.RemoveAt(tokens.Count - 1);
            return Place(vocabulary, tokens, last.Text, last.Span);
        }

        return Place(vocabulary, tokens, "", new(before.Length, 0));
    }

    private static readonly string[] Operators = ["and", "or", "not", "prox", "sortby"];

    private static CompletionPlace Place(QueryVocabulary vocabulary, List<CqlToken> before, string begun, TextSpan span)
    {
        string? index = null;
        var expected = CompletionKind.Index;
        for (var i = 0; i < before.Count; i++)
        {
            var token = before[i];
            if (token.Kind == CqlTokenKind.Slash)
            {
                // A modifier and its value say nothing about what follows.
                i += i + 2 < before.Count && before[i + 2].Kind == CqlTokenKind.Comparison ? 3 : 1;
                continue;
            }

            (expected, index) = token.Kind switch
            {
                CqlTokenKind.Open => (CompletionKind.Index, null),
                CqlTokenKind.Close => (CompletionKind.Operator, null),
                CqlTokenKind.Comparison => (CompletionKind.Value, index),
                _ when expected == CompletionKind.Value => (CompletionKind.Operator, null),
                _ when Operators.Any(token.IsWord) => (CompletionKind.Index, null),
                _ when expected == CompletionKind.Relation && index is not null => (CompletionKind.Value, index),
                _ when expected == CompletionKind.Index => vocabulary.Knows(token.Text)
                && token.Kind == CqlTokenKind.Word
                    ? (CompletionKind.Relation, token.Text.ToLowerInvariant())
                    : (CompletionKind.Operator, null),
                _ => (CompletionKind.Operator, (string?)null),
            };
        }

        return new(expected, begun, span, index);
    }
}
