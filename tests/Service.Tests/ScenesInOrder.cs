using ComeAboard.Scenes;
using ComeAboard.Service.Tests;
using Xunit;

[assembly: TestCollectionOrderer(typeof(ScenesInOrder))]

namespace ComeAboard.Service.Tests;

public sealed class ScenesInOrder()
    : LongestFirst(
        nameof(CarriedOut_on_PostgreSQL),
        nameof(FollowingUp_on_PostgreSQL),
        nameof(Merging_on_PostgreSQL),
        nameof(Upgrading),
        nameof(CarriedOut_on_SQLite),
        nameof(SignedInOutside_on_PostgreSQL),
        nameof(BringingIn_on_PostgreSQL),
        nameof(FollowingUp_on_SQLite),
        nameof(LettingIn_on_SQLite),
        nameof(LettingIn_on_PostgreSQL),
        nameof(SignedInOutside_on_SQLite),
        nameof(Merging_on_SQLite),
        nameof(ManyLeave_on_PostgreSQL),
        nameof(Claiming_on_SQLite),
        nameof(Claiming_on_PostgreSQL)
    );
