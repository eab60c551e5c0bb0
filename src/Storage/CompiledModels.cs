namespace ComeAboard.Storage.Compiled.Sqlite
{
    /// <summary>The model on SQLite as it is generated from the mapping, with its filters.</summary>
    public partial class SqliteContextModel
    {
        partial void Customize() => TenantFilters.GiveTo<SqliteContext>(this);
    }
}

namespace ComeAboard.Storage.Compiled.Postgres
{
    /// <summary>The model on PostgreSQL as it is generated from the mapping, with its filters.</summary>
    public partial class PostgresContextModel
    {
        partial void Customize() => TenantFilters.GiveTo<PostgresContext>(this);
    }
}
