using System.Text.RegularExpressions;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Metadata;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>
/// The mapping is compiled ahead, as it takes a third of a start to make. After it was changed, <c>make schema</c> compiles it anew.
/// </summary>
public sealed class CompiledMapping
{
    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task It_is_what_the_mapping_says(Engine engine)
    {
        await using var rows = Open(engine);
        Assert.EndsWith("ContextModel", rows.Model.GetType().Name, StringComparison.Ordinal);
        Assert.Equal(WordsOf(SaidBy(rows)), WordsOf(rows.Model));
    }

    [Theory]
    [InlineData(Engine.Sqlite)]
    [InlineData(Engine.Postgres)]
    public async Task Every_row_of_a_workspace_is_seen_from_within_it_only(Engine engine)
    {
        await using var rows = Open(engine);
        var theirs = FiltersOf(rows.Model);
        Assert.Equal(
            [
                .. typeof(ITenantRow)
                    .Assembly.GetTypes()
                    .Where(type =>
                        type is { IsClass: true, IsAbstract: false }
                        && type.IsAssignableTo(typeof(ITenantRow))
                    )
                    .Select(type => type.FullName!)
                    .Order(StringComparer.Ordinal),
            ],
            theirs.Select(filter => filter.Row)
        );
        Assert.All(
            theirs,
            filter => Assert.Equal("row => (row.WorkspaceId == the context's.Workspace)", filter.Words)
        );
        Assert.Equal(FiltersOf(SaidBy(rows)), theirs);
    }

    private static ComeAboardContext Open(Engine engine) =>
        (
            engine == Engine.Sqlite
                ? Database.Sqlite(Path.Combine(Path.GetTempPath(), $"{Guid.NewGuid()}.db"))
                : Database.Postgres("Host=127.0.0.1")
        ).Open();

    /// <summary>What the mapping comes to, made from its own words as a start without the compiled one would make it.</summary>
    private static IModel SaidBy(ComeAboardContext rows) =>
        rows.GetService<IModelRuntimeInitializer>()
            .Initialize(rows.GetService<IDesignTimeModel>().Model, designTime: false, validationLogger: null);

    private static string WordsOf(IModel model) =>
        model.ToDebugString(MetadataDebugStringOptions.LongDefault);

    private static List<(string Row, string Words)> FiltersOf(IModel model) =>
        [
            .. model
                .GetEntityTypes()
                .SelectMany(type =>
                    type.GetDeclaredQueryFilters()
                        .Select(filter =>
                            (
                                type.ClrType.FullName!,
                                Regex.Replace(
                                    $"{filter.Expression}",
                                    @"(null|value\(ComeAboard\.Storage\.\w+Context\))\.",
                                    "the context's."
                                )
                            )
                        )
                )
                .OrderBy(filter => filter.Item1, StringComparer.Ordinal),
        ];
}
