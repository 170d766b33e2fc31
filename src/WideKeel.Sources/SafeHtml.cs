using Ganss.Xss;

namespace WideKeel.Sources;

/// <summary>HTML that does nothing and fetches nothing: no script, no style sheet, no image, no link address.</summary>
public static class SafeHtml
{
    public static string Sanitize(string html)
    {
        var sanitizer = new HtmlSanitizer();
        sanitizer.AllowedSchemes.Clear();
        sanitizer.AllowedCssProperties.Clear();
        sanitizer.AllowedAttributes.Clear();
        sanitizer.AllowedAttributes.UnionWith(["colspan", "rowspan", "lang", "dir", "title"]);
        sanitizer.AllowedTags.ExceptWith([
            "img",
            "form",
            "input",
            "button",
            "select",
            "textarea",
            "video",
            "audio",
            "area",
            "map",
        ]);
        return sanitizer.Sanitize(html);
    }
}
