using System.Text;

namespace ComeAboard.Core.Connections;

/// <summary>Texts within what directories read.</summary>
public static class DirectoryText
{
    /// <summary>A text as a value in a filter (RFC 4515, section 3).</summary>
    public static string InFilter(string text)
    {
        var written = new StringBuilder(text.Length);
        foreach (var sign in text)
            _ = sign is '*' or '(' or ')' or '\\' or '\0'
                ? written.Append('\\').Append(((int)sign).ToString("x2"))
                : written.Append(sign);
        return written.ToString();
    }

    /// <summary>A text as a value in the name of an entry (RFC 4514, section 2.4).</summary>
    public static string InName(string text)
    {
        var written = new StringBuilder(text.Length);
        for (var at = 0; at < text.Length; at++)
        {
            var sign = text[at];
            if (sign < ' ')
                written.Append('\\').Append(((int)sign).ToString("x2"));
            else
            {
                var isEdge = at == 0 && sign is ' ' or '#' || at == text.Length - 1 && sign == ' ' && at > 0;
                if (
                    isEdge && (sign != '#' || at == 0)
                    || sign is '"' or '+' or ',' or ';' or '<' or '>' or '\\' or '='
                )
                    written.Append('\\');
                written.Append(sign);
            }
        }
        return written.ToString();
    }

    /// <summary>The name of the entry above one: what follows its first part; itself where there is none above.</summary>
    public static string Above(string name)
    {
        for (var at = 0; at < name.Length; at++)
        {
            if (name[at] == '\\')
                at++;
            else if (name[at] == ',')
                return name[(at + 1)..].Trim();
        }
        return name;
    }
}
