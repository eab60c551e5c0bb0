using System.Data.Common;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Storage;

namespace ComeAboard.Storage;

/// <summary>
/// Transactions that are given up for no longer than whoever is in them waits for: the driver takes half a minute when a server
/// hangs that was reading or writing a moment ago, and all who stand in line behind wait with it.
/// </summary>
internal sealed class PatientTransactions(RelationalTransactionFactoryDependencies dependencies)
    : RelationalTransactionFactory(dependencies)
{
    /// <inheritdoc/>
    public override RelationalTransaction Create(
        IRelationalConnection connection,
        DbTransaction transaction,
        Guid transactionId,
        IDiagnosticsLogger<DbLoggerCategory.Database.Transaction> logger,
        bool transactionOwned
    ) =>
        new Given(
            connection,
            transaction,
            transactionId,
            logger,
            transactionOwned,
            Dependencies.SqlGenerationHelper
        );

    private sealed class Given(
        IRelationalConnection connection,
        DbTransaction transaction,
        Guid transactionId,
        IDiagnosticsLogger<DbLoggerCategory.Database.Transaction> logger,
        bool transactionOwned,
        ISqlGenerationHelper sql
    ) : RelationalTransaction(connection, transaction, transactionId, logger, transactionOwned, sql)
    {
        private bool _isOver;

        public override async Task CommitAsync(CancellationToken cancellationToken = default)
        {
            await base.CommitAsync(cancellationToken);
            _isOver = true;
        }

        public override async Task RollbackAsync(CancellationToken cancellationToken = default)
        {
            await base.RollbackAsync(cancellationToken);
            _isOver = true;
        }

        public override async ValueTask DisposeAsync()
        {
            if (!_isOver)
            {
                _isOver = true;
                try
                {
                    await Patience.BoundAsync(Connection.Context, this.GetDbTransaction().RollbackAsync);
                }
                catch (Exception)
                {
                    // The connection is broken or is broken now, and the server gives the transaction up by itself.
                }
            }
            await base.DisposeAsync();
        }
    }
}
