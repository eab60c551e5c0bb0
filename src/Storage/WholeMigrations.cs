using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.EntityFrameworkCore.Migrations.Operations;

namespace ComeAboard.Storage;

/// <summary>
/// Migrations of SQLite that are in whole or not at all. Where a table is rebuilt, the framework leaves its transaction to
/// switch foreign keys off, and a process killed there would leave half a migration that no later start takes up. Here
/// <see cref="Schema"/> switches them off around all of them.
/// </summary>
internal sealed class WholeMigrations(
    MigrationsSqlGeneratorDependencies dependencies,
    IRelationalAnnotationProvider annotations
) : SqliteMigrationsSqlGenerator(dependencies, annotations)
{
    public override IReadOnlyList<MigrationCommand> Generate(
        IReadOnlyList<MigrationOperation> operations,
        IModel? model = null,
        MigrationsSqlGenerationOptions options = MigrationsSqlGenerationOptions.Default
    ) =>
        [
            .. base.Generate(operations, model, options)
                .Where(command =>
                    !command.CommandText.StartsWith("PRAGMA foreign_keys", StringComparison.OrdinalIgnoreCase)
                ),
        ];
}
