"""Edits as pages send them."""

HX = {"HX-Request": "true"}


def post(client, address, revision=None, files=None, **data):
    seen = {} if revision is None else {"Gw-Revision": str(revision)}
    return client.post(address, data=data, files=files, headers=HX | seen)


def post_to_floor(client, scene, action, files=None, **data):
    return post(client, f"/floor/{scene.id}/{action}", files=files, **data)


def post_to_bench(client, puppet, action, **data):
    return post(client, f"/bench/{puppet.id}/{action}", **data)
