using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;
using Microsoft.EntityFrameworkCore.Migrations;

namespace ComeAboard.Storage;

/// <summary>Opens a context for writing migrations; it never connects.</summary>
internal sealed class SqliteDesignTime : IDesignTimeDbContextFactory<SqliteContext>
{
    public SqliteContext CreateDbContext(string[] args) =>
        new(
            new DbContextOptionsBuilder<SqliteContext>()
                .UseSqlite("Data Source=design.db")
                .ReplaceService<IMigrationsSqlGenerator, WholeMigrations>()
                .UseSnakeCaseNamingConvention()
                .Options
        );
}

/// <inheritdoc cref="SqliteDesignTime"/>
internal sealed class PostgresDesignTime : IDesignTimeDbContextFactory<PostgresContext>
{
    public PostgresContext CreateDbContext(string[] args) =>
        new(
            new DbContextOptionsBuilder<PostgresContext>()
                .UseNpgsql("Host=localhost")
                .UseSnakeCaseNamingConvention()
                .Options
        );
}
