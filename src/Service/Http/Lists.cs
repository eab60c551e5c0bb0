using System.Collections;
using System.Globalization;
using System.Reflection;
using ComeAboard.Service.Invitations;

namespace ComeAboard.Service.Http;

/// <summary>Lists saved as files.</summary>
public static class Lists
{
    /// <summary>A table as a CSV file (RFC 4180) to be saved; cells that a spreadsheet would take for formulas are neutralised.</summary>
    public static IResult Csv(IEnumerable<IReadOnlyList<string>> table, string name) =>
        Results.File(Tables.Export(table), "text/csv; charset=utf-8", name + ".csv");

    /// <summary>Lets a list be had as CSV as well, just as it is filtered: with <c>?format=csv</c>.</summary>
    /// <param name="endpoint">The list; it answers all of itself at once.</param>
    /// <param name="name">The name of the file.</param>
    public static RouteHandlerBuilder OrCsv(this RouteHandlerBuilder endpoint, string name) =>
        endpoint.AddEndpointFilter(
            async (context, next) =>
            {
                var answer = await next(context);
                if (context.HttpContext.Request.Query["format"] != "csv")
                    return answer;
                var value = answer is IValueHttpResult holder ? holder.Value : answer;
                return value?.GetType().GetProperty("Items")?.GetValue(value) is IEnumerable items
                    ? Csv(TableOf(items), name)
                    : answer;
            }
        );

    /// <summary>Records as rows, with a column for each of their properties.</summary>
    public static IEnumerable<IReadOnlyList<string>> TableOf(IEnumerable items)
    {
        PropertyInfo[]? columns = null;
        foreach (var item in items)
        {
            if (columns is null)
            {
                columns = item.GetType().GetProperties();
                yield return [.. columns.Select(column => column.Name)];
            }
            yield return [.. columns.Select(column => Text(column.GetValue(item)))];
        }
    }

    private static string Text(object? value) =>
        value switch
        {
            null => "",
            string text => text,
            bool yes => yes ? "yes" : "no",
            DateOnly day => day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            DateTimeOffset instant => instant.ToString("u", CultureInfo.InvariantCulture),
            IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
            IEnumerable several => string.Join("; ", several.Cast<object>().Select(Text)),
            Client.Access.AreaLevel area => $"{area.Area} {area.Level}",
            Client.Access.GrantView grant => grant.Role + (grant.Resource is { } at ? " at " + at : ""),
            Client.Access.ContactView contact => $"{contact.Name} <{contact.Address}>",
            _ => value.ToString() ?? "",
        };
}
