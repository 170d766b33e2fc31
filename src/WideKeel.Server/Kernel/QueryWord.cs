using System.Text.Json;
using WideKeel.Core;

namespace WideKeel.Server.Kernel;

/// <summary>A word of a closed list in an address, as the API writes it.</summary>
public static class QueryWord
{
    /// <summary>Reads a word, whatever its case; nothing where there is none.</summary>
    /// <returns>The refusal of what stands for nothing, with what there is; else null.</returns>
    public static Refusal? Read<T>(string? text, string name, out T? word)
        where T : struct, Enum
    {
        word = null;
        if (string.IsNullOrEmpty(text))
        {
            return null;
        }

        if (
            !Enum.TryParse<T>(text, ignoreCase: true, out var known)
            || !Enum.IsDefined(known)
            || char.IsAsciiDigit(text[0])
        )
        {
            var words = Enum.GetNames<T>().Select(JsonNamingPolicy.CamelCase.ConvertName);
            return new("choice-unknown", name, $"“{text}” is no {name}; {string.Join(", ", words)} are.");
        }

        word = known;
        return null;
    }
}
