"""The process that handles feeds: what comes in over the network, what it moves, what of it is recorded and sent on.

Its state is its own: senders, rooms (a production whose feed somebody looks at), recordings under way. Services are called from
threads; the network is never kept waiting for the database.
"""
