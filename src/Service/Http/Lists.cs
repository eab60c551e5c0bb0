using System.Collections;
using System.Globalization;
using System.Reflection;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Invitations;

namespace ComeAboard.Service.Http;

/// <summary>Lists saved as files.</summary>
public static class Lists
{
    /// <summary>A page as an answer, which points to the next (RFC 8288).</summary>
    public static IResult ToPage<TView>(this Outcome<Page<TView>> outcome, HttpContext http) =>
        outcome.ToResult(page =>
        {
            http.SayNext(page.Next);
            return Results.Ok(page);
        });

    /// <summary>A table as a CSV file (RFC 4180) to be saved; cells that a spreadsheet would take for formulas are neutralised.</summary>
    public static IResult Csv(IEnumerable<IReadOnlyList<string>> table, string name) =>
        Results.File(Tables.Export(table), "text/csv; charset=utf-8", name + ".csv");

    /// <summary>A long list as a CSV file, written as it is read: however long, only a page of it is held.</summary>
    public static IResult Csv(IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> pages, string name) =>
        Results.Stream(
            async stream =>
            {
                await stream.WriteAsync(System.Text.Encoding.UTF8.Preamble.ToArray());
                await foreach (var page in pages)
                    await stream.WriteAsync(Tables.ExportPart(page));
            },
            "text/csv; charset=utf-8",
            name + ".csv"
        );

    /// <summary>A long list of records as a CSV file, with a column for each of their properties.</summary>
    public static IResult Csv<T>(IAsyncEnumerable<IReadOnlyList<T>> lots, string name)
    {
        return Csv(TablesAsync(), name);

        async IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> TablesAsync()
        {
            yield return
            [
                [.. typeof(T).GetProperties().Select(column => column.Name)],
            ];
            await foreach (var lot in lots)
                yield return [.. TableOf(lot).Skip(1)];
        }
    }

    /// <summary>Whether a list is asked for as a file.</summary>
    public static bool AsksForCsv(this HttpContext http) => http.Request.Query["format"] == "csv";

    /// <summary>Lets a list be had as CSV as well, just as it is filtered and whole: with <c>?format=csv</c>.</summary>
    /// <param name="endpoint">The list; it answers all of itself at once, or takes a <see cref="Paging"/>.</param>
    /// <param name="name">The name of the file.</param>
    public static RouteHandlerBuilder OrCsv(this RouteHandlerBuilder endpoint, string name) =>
        endpoint
            .SaidAsCsv()
            .AddEndpointFilter(
                async (context, next) =>
                {
                    if (!context.HttpContext.AsksForCsv())
                        return await next(context);
                    var paged = context.Arguments.ToList().FindIndex(argument => argument is Paging);
                    if (paged >= 0)
                        context.Arguments[paged] = new Paging(null, Paging.Largest);
                    var answer = await next(context);
                    if (ItemsOf(answer) is not { } first)
                        return answer;
                    return Csv(PagesAsync(), name);

                    async IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> PagesAsync()
                    {
                        yield return [.. TableOf(first.Items)];
                        for (var cursor = first.Next; cursor is not null && paged >= 0; )
                        {
                            context.Arguments[paged] = new Paging(cursor, Paging.Largest);
                            if (ItemsOf(await next(context)) is not { } page)
                                yield break;
                            yield return [.. TableOf(page.Items).Skip(1)];
                            cursor = page.Next;
                        }
                    }
                }
            );

    /// <summary>Says of a list that it answers <c>?format=csv</c> with a file.</summary>
    public static RouteHandlerBuilder SaidAsCsv(this RouteHandlerBuilder endpoint) =>
        endpoint.WithMetadata(new AlsoCsv());

    private static (IEnumerable Items, string? Next)? ItemsOf(object? answer)
    {
        var value = answer is IValueHttpResult holder ? holder.Value : answer;
        return value?.GetType().GetProperty("Items")?.GetValue(value) is IEnumerable items
            ? (items, value.GetType().GetProperty("Next")?.GetValue(value) as string)
            : null;
    }

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
            Client.Access.BundleView gives => string.Join(
                "; ",
                (gives.Roles ?? [])
                    .Select(role => role.Role + (role.Resource is { } at ? " at " + at : ""))
                    .Concat((gives.Groups ?? []).Select(group => "group " + group))
                    .Concat((gives.Seats ?? []).Select(seat => "seat of " + seat))
            ),
            IEnumerable<KeyValuePair<string, int>> counts => string.Join(
                "; ",
                counts.Where(count => count.Value != 0).Select(count => $"{count.Key} {count.Value}")
            ),
            System.Text.Json.JsonElement json => json.GetRawText(),
            IEnumerable several => string.Join("; ", several.Cast<object>().Select(Text)),
            Client.Access.AreaLevel area => $"{area.Area} {area.Level}",
            Client.Access.GrantView grant => grant.Role + (grant.Resource is { } at ? " at " + at : ""),
            Client.Accounts.TwinView one => $"{one.Name} <{one.Address}>",
            Client.Connections.MeantView one => one.Address,
            Client.Connections.FieldChangeView change => $"{change.Field}: {change.Before} > {change.After}",
            Client.Problem problem => problem.Title ?? "",
            Client.Accounts.DistinctView said => said.By,
            Client.Access.ContactView contact => $"{contact.Name} <{contact.Address}>",
            _ => value.ToString() ?? "",
        };
}

/// <summary>Marks a list that can be had as CSV.</summary>
public sealed record AlsoCsv;
